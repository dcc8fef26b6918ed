"""A class page: in by three words without an account, teams that draw, vote, count and sort, and nothing mixed with what adults noted."""

import json
import re
from datetime import date
from typing import Any, cast
from uuid import UUID, uuid4

import httpx2
import pytest
from fastapi.testclient import TestClient

from almanaque.core.accounts import attempts
from almanaque.demo import DEMO_DAY, load
from almanaque.web import security
from tests.database import NORTH, bed_id
from tests.web.journal.test_letters_and_signs import groups
from tests.web.journal.test_open_gardens import of_another_school
from tests.web.pages import Page, enter, open_page, post

MAKE = "/journal/classes"
BED = str(bed_id("Bed 2"))
DREAM = ""


class OtherBrowser:
    """Another browser at the same application: it holds cookies of its own."""

    def __init__(self, client: TestClient) -> None:
        self.client, self.app, self.held = client, client.app, httpx2.Cookies()

    def get(self, path: str, **how: Any) -> Any:
        return self._ask("get", path, **how)

    def post(self, path: str, **how: Any) -> Any:
        return self._ask("post", path, **how)

    def _ask(self, verb: str, path: str, **how: Any) -> Any:
        mine, self.client.cookies = self.client.cookies, self.held
        try:
            return getattr(self.client, verb)(path, **how)
        finally:
            self.held, self.client.cookies = self.client.cookies, mine


def make(client: TestClient, *does: str, **more: object) -> Page:
    """An educator opens a page for a class as the form stands, with some fields changed."""
    form = open_page(client, MAKE).form(MAKE)
    fields: dict[str, object] = {
        "id": str(uuid4()),
        "group": more.get("group") or groups(client)["Grade 2"],
        "on_day": form.fields["on_day"],
        "until": form.fields["until"],
        "does": list(does),
        "teams": "The Wrens\nThe Newts",
        "bed": BED,
        "columns": "8",
        "rows": "6",
        "season_from": "2027-04-14",
        "season_to": "2027-06-01",
        "ballot": str(load.demo_id("Brindlecombe School", "ballot")),
        "counts": ["height", "visitors", "seeds up"],
        "count_bed": BED,
        "sorts_by": "part",
        **more,
    }
    return post(client, MAKE, **fields)  # type: ignore[arg-type]


def made(client: TestClient, *does: str, **more: object) -> Page:
    page = make(client, *does, **more)
    assert page.status == 200, page.text[:600]
    return page


def address(page: Page) -> str:
    return str(page.response.url).split("?")[0].replace("https://testserver", "").replace("http://testserver", "")


def code(page: Page) -> str:
    found = re.search(r'class="class-words[^"]*">(.*?)</p>', page.html, re.S)
    assert found is not None
    return " ".join(re.findall(r"<span>(\w+)</span>", found[1]))


def browser(client: TestClient) -> TestClient:
    return cast(TestClient, OtherBrowser(client))


def tablet(client: TestClient, words: str, team: str = "The Wrens") -> TestClient:
    """Another browser, which comes in by the words and chooses a team."""
    other = browser(client)
    form = open_page(other, "/class").form("/class")
    other.post("/class", data={"code": words, "form_token": form.fields["form_token"]})
    page = open_page(other, "/class/team")
    assert page.status == 200, page.text
    if team:
        names = re.findall(r'name="team" value="([^"]+)"[^>]*>([^<]+)<', page.html)
        chosen = {name: key for key, name in names}[team]
        send(other, "/class/team", team=chosen)
    return other


def form_token(client: TestClient) -> str:
    return open_page(client, "/class/team").form("/class/team").fields["form_token"]


def send(client: TestClient, path: str, **fields: object) -> Page:
    return Page(client.post(path, data={"form_token": form_token(client), **fields}))


def draw(client: TestClient, what: str, *cells: tuple[int, int], stroke: str = "") -> dict[str, object]:
    stroke = stroke or str(uuid4())
    marks = [[str(uuid4()), stroke, column, row, what] for column, row in cells]
    found: dict[str, object] = send(client, "/class/marks", marks=json.dumps(marks)).response.json()
    return found


def marks_kept(client: TestClient) -> int:
    with client.app.state.database.school(NORTH) as connection:
        row = connection.execute("SELECT count(*) FROM class_mark").fetchone()
    return int(row[0]) if row else 0


@pytest.fixture
def educator(client: TestClient) -> TestClient:
    enter(client, "educator")
    return client


def test_a_tablet_comes_in_by_three_words_and_nobody_is_asked_for_a_name(educator: TestClient) -> None:
    words = code(made(educator, "draw"))
    assert len(words.split()) == 3
    other = tablet(educator, words.upper().replace(" ", ", "), team="")
    page = open_page(other, "/class/team")
    assert "The Wrens" in page.text
    assert "Grade 2" in page.text
    for login in load.LOGINS:
        assert login.name not in page.text
    assert other.get("/week", follow_redirects=False).status_code == 303  # it opens nothing else


def test_words_are_shown_again_and_only_a_hash_of_them_is_kept(educator: TestClient) -> None:
    page = made(educator, "draw")
    words = code(page)
    assert code(open_page(educator, address(page))) == words
    with educator.app.state.database.school(NORTH) as connection:
        kept = connection.execute("SELECT code_hash FROM class_code WHERE ended_at IS NULL").fetchall()
    assert {len(row[0]) for row in kept} == {32}
    assert security.token_hash(words.replace(" ", "-")) not in [
        row[0] for row in kept
    ]  # a plain hash would be found by trying


def test_wrong_words_are_told_and_counted_by_where_they_come_from(educator: TestClient) -> None:
    words = code(made(educator, "draw"))
    other = browser(educator)
    token = open_page(other, "/class").form("/class").fields["form_token"]
    wrong = Page(other.post("/class", data={"code": "pea drum river", "form_token": token}))
    assert wrong.status == 422
    assert "No class page is open under these words" in wrong.text
    for _ in range(attempts.CLASS_CODE.free):
        last = other.post("/class", data={"code": "pea drum river", "form_token": token})
    assert last.status_code == 429
    assert other.post("/class", data={"code": words, "form_token": token}).status_code == 429


def test_the_code_leads_nowhere_when_the_page_is_closed_and_what_was_drawn_is_kept(educator: TestClient) -> None:
    page = made(educator, "draw")
    other = tablet(educator, code(page))
    draw(other, "pea", (0, 0))
    closed = post(educator, address(page), action="end")
    assert "Closed. What was drawn and counted is kept." in closed.text
    assert send_raw(other, "/class/marks", marks="[]").status == 403
    assert other.get("/class/draw", follow_redirects=False).headers["location"] == "/class?over=1"
    assert "in 1 square" not in closed.text
    assert "1 of 32" in open_page(educator, address(page)).text
    longer = post(educator, address(page), action="longer-10")
    assert "Open until" in longer.text
    assert open_page(other, "/class/draw").status == 200


def send_raw(client: TestClient, path: str, **fields: object) -> Page:
    token = open_page(client, "/class").form("/class").fields["form_token"]
    return Page(client.post(path, data={"form_token": token, **fields}))


def test_a_page_made_ready_for_another_day_lets_nobody_in_before(educator: TestClient) -> None:
    page = made(educator, "draw", on_day="2027-04-16", until="10:00")
    assert "The words let in on the day of the lesson." in page.text
    other = browser(educator)
    token = open_page(other, "/class").form("/class").fields["form_token"]
    assert other.post("/class", data={"code": code(page), "form_token": token}).status_code == 422


def test_a_page_made_ready_that_is_to_last_longer_still_waits_for_its_day(educator: TestClient) -> None:
    page = made(educator, "draw", on_day="2027-04-16", until="10:00")
    longer = post(educator, address(page), action="longer-30")
    assert "The words let in on the day of the lesson." in longer.text
    other = browser(educator)
    token = open_page(other, "/class").form("/class").fields["form_token"]
    assert other.post("/class", data={"code": code(page), "form_token": token}).status_code == 422


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"until": "00:00"}, "That time is over"),
        ({"on_day": "2027-06-30", "until": "10:00"}, "within 14 days"),
        ({"teams": ""}, "Name one to 12 teams"),
        ({"season_from": "2027-12-20", "season_to": "2027-12-24"}, "Nothing can be begun in those days"),
        ({"season_from": "2027-06-01", "season_to": "2027-05-01"}, "between two days"),
        ({"bed": "", "columns": "40"}, "3 to 16 squares"),
        ({"bed": "", "columns": "many"}, "squares along a side"),
        ({"does": ["vote"], "ballot": ""}, "Choose the ballot"),
        ({"does": ["count"], "counts": []}, "at least one thing to count"),
        ({"does": []}, "at least one thing that the page can do"),
    ],
)
def test_what_cannot_be_is_told_and_what_was_typed_stays(
    educator: TestClient, fields: dict[str, object], said: str
) -> None:
    page = make(educator, "draw", **{"teams": "The Own Ones", **fields})
    assert page.status == 422
    assert said in page.text
    if "teams" not in fields:
        assert "The Own Ones" in page.text


def test_a_team_draws_with_portraits_and_plants_are_counted_as_on_a_bed(educator: TestClient) -> None:
    other = tablet(educator, code(made(educator, "draw")))
    page = open_page(other, "/class/draw")
    palette = [given["data-what"] for tag, given in page.tags if tag == "button" and "data-what" in given]
    assert "radish" in palette
    assert "hot-pepper" not in palette  # not for their age
    assert len(palette) <= 25
    found = draw(other, "radish", (0, 0), (1, 0))
    assert found["squares"] == {"0,0": "radish", "1,0": "radish"}
    assert found["counts"] == [["radish", "Radish", 32, 2]]
    assert len(found["plants"]) == 32  # type: ignore[arg-type]


def test_marks_sent_twice_are_kept_once_and_a_stroke_is_taken_back_and_done_again(educator: TestClient) -> None:
    other = tablet(educator, code(made(educator, "draw")))
    stroke, number = str(uuid4()), str(uuid4())
    marks = json.dumps([[number, stroke, 0, 0, "radish"]])
    before = marks_kept(educator)
    for _ in range(2):
        send(other, "/class/marks", marks=marks)
    assert marks_kept(educator) == before + 1
    back = send(other, "/class/strokes", stroke=stroke, back="1").response.json()
    assert back["squares"] == {}
    again = send(other, "/class/strokes", stroke=stroke, back="0").response.json()
    assert again["squares"] == {"0,0": "radish"}
    assert other.get(f"/class/plan?version={again['version']}").status_code == 204
    assert other.get("/class/plan?version=0").json()["squares"] == {"0,0": "radish"}


def test_a_tablet_takes_back_its_own_strokes_only(educator: TestClient) -> None:
    words = code(made(educator, "draw"))
    one, two = tablet(educator, words), tablet(educator, words)
    stroke = str(uuid4())
    draw(one, "radish", (0, 0), stroke=stroke)
    assert send(two, "/class/strokes", stroke=stroke, back="1").response.json()["squares"] == {"0,0": "radish"}


@pytest.mark.parametrize(
    "marks",
    [
        "",
        "nonsense",
        "{}",
        "[1]",
        '[["x", "y", 0, 0, "radish"]]',
        json.dumps([[str(UUID(int=1)), str(UUID(int=2)), 99, 0, "radish"]]),
        json.dumps([[str(UUID(int=1)), str(UUID(int=2)), 0, 0, "hot-pepper"]]),
        json.dumps([[str(UUID(int=1)), str(UUID(int=2)), True, 0, "radish"]]),
        json.dumps([[str(UUID(int=1)), str(UUID(int=2)), 0.5, 0, "radish"]]),
        json.dumps([[str(UUID(int=1)), str(UUID(int=2)), 0, 0, "thing:pond"]]),
        "[" * 5000,
        json.dumps([[str(UUID(int=n)), str(UUID(int=2)), 0, 0, "radish"] for n in range(401)], indent=1),
    ],
)
def test_strange_marks_are_refused_in_words_and_none_is_kept(educator: TestClient, marks: str) -> None:
    other = tablet(educator, code(made(educator, "draw")))
    before = marks_kept(educator)
    page = send(other, "/class/marks", marks=marks)
    assert page.status == 422
    assert page.response.json()["error"]
    assert marks_kept(educator) == before


def test_notes_are_gentle_and_go_by_the_rules_of_the_bed(educator: TestClient) -> None:
    other = tablet(educator, code(made(educator, "draw")))
    draw(other, "pumpkin", (0, 0))
    assert "A pumpkin needs a block of 3 by 3 squares." in open_page(other, "/class/notes").text
    draw(other, "", (0, 0))
    draw(other, "mizuna", (0, 0))
    assert "Nothing here flowers for bees yet." in open_page(other, "/class/notes").text


def test_a_dream_garden_has_things_besides_plants(educator: TestClient) -> None:
    other = tablet(educator, code(made(educator, "draw", bed=DREAM, columns="5", rows="4")))
    page = open_page(other, "/class/draw")
    assert "Little pond" in page.text
    draw(other, "thing:pond", (0, 0))
    found = draw(other, "radish", (4, 3))
    assert found["things"]
    assert found["says"] == "The Wrens: 16 radish and little pond"
    assert "By" not in open_page(other, "/class/notes").text


def test_the_gallery_compares_plans_and_a_dot_is_given_to_another_team(educator: TestClient) -> None:
    page = made(educator, "draw")
    wrens, newts = tablet(educator, code(page)), tablet(educator, code(page), "The Newts")
    draw(wrens, "radish", (0, 0))
    draw(newts, "pea", (0, 0))
    draw(newts, "lettuce" if "lettuce" in open_page(newts, "/class/draw").html else "mesclun", (1, 0))
    gallery = open_page(wrens, "/class/gallery")
    assert "the most kinds" in gallery.text
    keys = dict(re.findall(r'name="team" value="([^"]+)"[^>]*>.*?to (The \w+)<', gallery.html, re.S))
    assert list(keys.values()) == ["The Newts"]
    assert "1 dot" in send(wrens, "/class/gallery", team=next(iter(keys))).text
    assert "1 dot" in send(wrens, "/class/gallery", team=next(iter(keys))).text  # a second time it is the same one
    own = send(newts, "/class/gallery", team=next(iter(keys)))
    assert own.status == 422
    assert "That is your own plan." in own.text


def test_a_part_of_a_plan_is_built_into_a_draft_of_the_team(client: TestClient) -> None:
    enter(client, "coordinator")
    page = made(client, "draw")
    other = tablet(client, code(page))
    draw(other, "radish", (0, 0), (1, 0), (2, 1))
    where = address(page)
    form = next(f for f in open_page(client, where).forms if f.action.endswith("/build"))
    draft = str(uuid4())
    nothing = post(client, f"{where}/build", team=form.fields["team"], squares="H4", draft=draft)
    assert nothing.status == 422
    assert "nothing drawn in those squares" in nothing.text
    built = post(client, f"{where}/build", team=form.fields["team"], squares="A1-B1", draft=draft)
    assert built.status == 200, built.text[:300]
    with client.app.state.database.school(NORTH) as connection:
        rows = connection.execute(
            "SELECT p.crop, p.status, d.name, d.made_by FROM planting p JOIN draft d ON d.id = p.draft_id WHERE d.id = %s",
            [draft],
        ).fetchall()
        cells = connection.execute(
            "SELECT count(*) FROM patch c JOIN planting p ON p.id = c.planting_id WHERE p.draft_id = %s", [draft]
        ).fetchone()
    assert rows == [("radish", "pencilled", "The Wrens, Grade 2", "The Wrens")]
    assert cells == (2,)


def test_plans_are_printed_in_colour_and_to_be_coloured_in(educator: TestClient) -> None:
    page = made(educator, "draw")
    draw(tablet(educator, code(page)), "radish", (0, 0))
    colour, line = (open_page(educator, f"{address(page)}/print{how}") for how in ("", "?how=line"))
    assert "-line.svg" not in colour.html
    assert "-line.svg" in line.html
    assert line.html.count("class-paper is-line") == 2
    assert "16 Radish" in line.text


def test_children_fill_in_ballots_and_they_count_when_the_educator_says_so(educator: TestClient) -> None:
    page = made(educator, "vote")
    other = tablet(educator, code(page))
    ballot = open_page(other, "/class/vote")
    on_it = [given["value"] for tag, given in ballot.tags if given.get("name") == "dots"]
    number = ballot.form("/class/ballots").fields["id"]
    for _ in range(2):
        done = send(other, "/class/ballots", id=number, dots=on_it[:2], wish="a palm tree")
    assert "Your ballot is in. Hand the tablet on." in done.text
    send(other, "/class/ballots", id=str(uuid4()), dots=on_it[1:3], wish="")
    shown = open_page(educator, address(page))
    assert "2 ballots of" in shown.text
    assert "a palm tree" in shown.text
    key = load.demo_id("Brindlecombe School", "ballot")
    group = groups(educator)["Grade 2"]
    before = votes(educator, key, group)
    counted = post(educator, f"{address(page)}/ballots", action="count")
    assert counted.status == 200, counted.text[:300]
    assert votes(educator, key, group) != before
    assert votes(educator, key, group) == {on_it[0]: 1, on_it[1]: 2, on_it[2]: 1}


def votes(client: TestClient, ballot: UUID, group: str) -> dict[str, int]:
    with client.app.state.database.school(NORTH) as connection:
        return dict(
            connection.execute(
                "SELECT crop, votes FROM vote WHERE ballot_id = %s AND class_group_id = %s", [ballot, group]
            ).fetchall()
        )


def test_a_wrong_ballot_is_shown_again_and_one_is_taken_out_of_the_box(educator: TestClient) -> None:
    page = made(educator, "vote")
    other = tablet(educator, code(page))
    wrong = send(other, "/class/ballots", id=str(uuid4()), dots=[], wish="")
    assert wrong.status == 422
    assert "Put your dots on something" in wrong.text
    number = str(uuid4())
    send(other, "/class/ballots", id=number, dots=[], wish="rude words")
    out = post(educator, f"{address(page)}/ballots", out=number)
    assert "rude words" not in out.text
    assert post(educator, f"{address(page)}/ballots", out=number).status == 404


def test_a_child_who_is_away_votes_by_the_link_for_home(client: TestClient) -> None:
    enter(client, "coordinator")
    ballot = str(load.demo_id("Brindlecombe School", "ballot"))
    group = groups(client)["Grade 2"]
    fields = {"greeting": "x", "since": "2027-03-20", "until": "2027-08-01", "ballot": ballot}
    home = browser(client)
    for audience, votes_there in (("families", False), (group, True)):
        page = post(client, "/journal/open", audience=audience, **fields)
        secret = next(given["value"] for tag, given in page.tags if given.get("id") == "made").rsplit("/", 1)[1]
        assert ("Fill in your ballot" in open_page(home, f"/open/{secret}").text) is votes_there
    form = open_page(home, f"/open/{secret}/ballot")
    on_it = [given["value"] for tag, given in form.tags if given.get("name") == "dots"]
    token = form.form(f"/open/{secret}/ballot").fields["form_token"]
    for dots in (on_it[:2], on_it[1:3]):
        sent = Page(home.post(f"/open/{secret}/ballot", data={"form_token": token, "dots": dots, "wish": "a fig"}))
        assert "Your ballot is in" in sent.text
    shown = open_page(client, f"/school/ballots/{ballot}")
    assert "1 ballot filled in by children, 1 from home" in shown.text
    post(client, f"/school/ballots/{ballot}", group=group, action="count")
    assert votes(client, UUID(ballot), group) == {on_it[1]: 1, on_it[2]: 1}
    assert "a fig" in shown.text
    out = next(given["value"] for tag, given in shown.tags if given.get("name") == "out")
    without = post(client, f"/school/ballots/{ballot}", group=group, out=out)
    assert "filled in by children" not in without.text
    assert "a fig" not in without.text


def test_no_more_ballots_lie_in_the_box_than_the_class_has_children_and_a_few(educator: TestClient) -> None:
    page = made(educator, "vote")
    other = tablet(educator, code(page))
    on_it = [given["value"] for tag, given in open_page(other, "/class/vote").tags if given.get("name") == "dots"]
    group = groups(educator)["Grade 2"]
    with educator.app.state.database.school(NORTH) as connection:
        connection.execute("UPDATE class_group SET head_count = 1 WHERE id = %s", [group])
    numbers = [str(uuid4()) for _ in range(7)]
    sent = [send(other, "/class/ballots", id=number, dots=on_it[:2], wish="").status for number in numbers]
    assert sent == [200] * 6 + [422]  # one child and five to spare
    assert send(other, "/class/ballots", id=numbers[0], dots=on_it[:2], wish="").status == 200  # sent again it is in


def test_teams_count_and_measure_each_in_a_row_of_its_own(educator: TestClient) -> None:
    page = made(educator, "count", "measure")
    wrens, newts = tablet(educator, code(page)), tablet(educator, code(page), "The Newts")
    number = str(uuid4())
    for _ in range(2):
        send(wrens, "/class/counts", id=number, kind="visitors", what="bees", amount="6", of="5")
    send(newts, "/class/counts", id=str(uuid4()), kind="visitors", what="bees", amount="10", of="10")
    send(newts, "/class/counts", id=str(uuid4()), kind="height", amount="12")
    board = open_page(newts, "/class/board")
    assert "All teams together: 16." in board.text
    rows = re.findall(r"<td>(\d=?)</td>\s*<th scope=\"row\">(The \w+)</th>", board.html)
    assert rows == [("1", "The Newts"), ("1", "The Wrens"), ("2", "The Newts")]
    assert "12 in" in board.text
    wrong = send(wrens, "/class/counts", id=str(uuid4()), kind="visitors", what="bees", amount="6", of="")
    assert wrong.status == 422
    assert "For how many minutes did you watch?" in wrong.text
    assert send(wrens, "/class/counts", id=str(uuid4()), kind="worms", amount="6", of="1").status == 404


def test_a_class_count_is_taken_back_by_its_team_and_by_nobody_elses(educator: TestClient) -> None:
    page = made(educator, "count")
    wrens, newts = tablet(educator, code(page)), tablet(educator, code(page), "The Newts")
    number = str(uuid4())
    send(wrens, "/class/counts", id=number, kind="visitors", what="bees", amount="6", of="5")
    assert send(newts, f"/class/counts/{number}/back").status == 404
    assert "Visitors: 6 bees" in open_page(wrens, "/class/count").text
    assert "Visitors: 6 bees" not in send(wrens, f"/class/counts/{number}/back").text


def test_class_counts_stay_apart_until_they_are_taken_over(client: TestClient) -> None:
    enter(client, "coordinator")
    page = made(client, "measure")
    other = tablet(client, code(page))
    where = address(page)
    plantings = re.findall(r'<option value="([0-9a-f-]{36})">(\w+)', open_page(client, where).html)
    team = next(
        given["name"] for tag, given in open_page(client, where).tags if given.get("name", "").startswith("planting-")
    )
    post(client, f"{where}/teams", **{team: plantings[0][0]})
    number = str(uuid4())
    send(other, "/class/counts", id=number, kind="height", amount="12")
    assert "The Wrens (class count)" in open_page(client, "/journal/heights").text or "class count" in whole_heights(
        client
    )
    assert heights_noted(client) == 0
    post(client, f"{where}/counts", count=number, action="enter")
    assert heights_noted(client) == 1
    assert "in the journal" in open_page(client, where).text
    assert post(client, f"{where}/counts", count=number, action="back").status == 404


def whole_heights(client: TestClient) -> str:
    page = open_page(client, "/journal/heights")
    keys = [given["value"] for tag, given in page.tags if tag == "option"]
    return " ".join(open_page(client, f"/journal/heights?crop={key}").text for key in keys)


def heights_noted(client: TestClient) -> int:
    with client.app.state.database.school(NORTH) as connection:
        row = connection.execute("SELECT count(*) FROM sighting WHERE note = 'Counted by a class.'").fetchone()
    return int(row[0]) if row else 0


def test_each_team_gets_a_pot_with_a_planting_of_its_own(client: TestClient) -> None:
    enter(client, "coordinator")
    page = made(client, "measure")
    done = post(client, f"{address(page)}/teams", crop="potato")
    assert "2 pots set on the map" in done.text
    assert "Potato, Pot of The Wrens" in done.text
    again = post(client, f"{address(page)}/teams", crop="potato")
    assert "0 pots" in again.text
    other = tablet(client, code(page))
    assert "You measure: Potato, Pot of The Wrens." in open_page(other, "/class/count").text


def test_cards_are_sorted_and_answers_are_shown_when_the_educator_says_so(educator: TestClient) -> None:
    page = made(educator, "sort")
    other = tablet(educator, code(page))
    cards = [given["data-card"] for tag, given in open_page(other, "/class/sort").tags if "data-card" in given]
    assert 8 <= len(cards) <= 16
    assert send(other, "/class/cards", crop=cards[0], heap="root").status == 200
    assert send(other, "/class/cards", crop=cards[0], heap="moon").status == 404
    assert send(other, "/class/cards", crop="moon", heap="root").status == 404
    shown = open_page(other, "/class/sort")
    assert "1 of" in shown.text
    assert "right" not in [given.get("class", "") for _, given in shown.tags]
    post(educator, address(page), action="answers")
    assert f"of {len(cards)} are right." in open_page(other, "/class/sort").text
    post(educator, address(page), action="hide")
    assert "lie in a heap" in open_page(other, "/class/sort").text


def test_what_a_page_does_not_do_is_not_there(educator: TestClient) -> None:
    other = tablet(educator, code(made(educator, "vote")))
    for path in (
        "/class/draw",
        "/class/gallery",
        "/class/count",
        "/class/sort",
        "/class/board",
        "/class/plan",
        "/class/notes",
    ):
        assert other.get(path).status_code == 404, path
    assert send(other, "/class/marks", marks="[]").status == 404


def test_without_a_code_a_tablet_is_led_to_where_words_are_typed(client: TestClient) -> None:
    for path in ("draw", "gallery", "vote", "count", "sort", "board", "team"):
        assert client.get(f"/class/{path}", follow_redirects=False).headers["location"] == "/class"
    assert client.get("/class/plan").status_code == 403


@pytest.mark.parametrize(
    "nasty", ["", "\x00", "💥" * 40, "9" * 5000, "'; DROP TABLE bed; --", "<script>", "-1", "nan", "1e999"]
)
def test_no_nasty_value_on_a_tablet_is_an_unexpected_error(educator: TestClient, nasty: str) -> None:
    other = tablet(educator, code(made(educator, "draw", "vote", "count", "measure", "sort")))
    sends = {
        "/class/team": ("team",),
        "/class/strokes": ("stroke", "back"),
        "/class/marks": ("marks",),
        "/class/gallery": ("team",),
        "/class/ballots": ("id", "dots", "wish"),
        "/class/counts": ("id", "kind", "amount", "of", "what"),
        "/class/cards": ("crop", "heap"),
    }
    token = form_token(other)
    usual = {"id": str(uuid4()), "kind": "visitors", "amount": "3", "of": "10", "what": "bees", "stroke": str(uuid4())}
    for path, names in sends.items():
        for name in names:
            answer = other.post(path, data={"form_token": token, **usual, name: nasty})
            assert answer.status_code < 500, (path, name)


def test_another_school_and_another_page_see_nothing_of_it(educator: TestClient) -> None:
    page = made(educator, "draw")
    one = tablet(educator, code(page))
    draw(one, "radish", (0, 0))
    second = made(educator, "draw", teams="The Toads")
    two = tablet(educator, code(second), "The Toads")
    team = open_page(one, "/class/team").html
    key = re.findall(r'name="team" value="([^"]+)"', team)[0]
    assert send(two, "/class/team", team=key).status == 404
    assert send(two, "/class/gallery", team=key).status == 404
    of_another_school(educator)
    assert open_page(educator, address(page)).status == 404


def test_a_helper_opens_a_page_and_cannot_take_one_out(client: TestClient) -> None:
    enter(client, "coordinator")
    group = groups(client)["Grade 2"]
    enter(client, "helper")
    page = made(client, "draw", group=group)
    assert "cannot take a class page out" in post(client, address(page), action="delete").text
    enter(client, "coordinator")
    assert post(client, address(page), action="delete").status == 200
    assert open_page(client, address(page)).status == 404


def test_visitors_are_drawn_over_the_bloom_and_told_over_the_years(client: TestClient) -> None:
    enter(client, "coordinator")
    page = made(client, "count")
    other = tablet(client, code(page))
    send(other, "/class/counts", id=str(uuid4()), kind="visitors", what="bees", amount="6", of="5")
    with client.app.state.database.school(NORTH) as connection:
        connection.execute(
            "UPDATE class_count SET counted_on = %s WHERE counted_on = %s", [date(2027, 4, 13), DEMO_DAY]
        )
    bloom = open_page(client, "/year/bloom?beds=all")
    assert "6 visitors in the week from 9 Apr" in bloom.html
    assert "21 visitors in the week from 2 Apr" in bloom.html
    assert "5 counts, 35 minutes" in bloom.text
    assert "2.3 in ten minutes" in bloom.text
    asked = open_page(client, "/year/bloom?beds=all&since=2027-01-01")
    assert "Before 1 Jan 2027 classes watched flowers 3 times, 30 minutes in all, and saw 2.3 visitors" in asked.text
    assert "Too few counts to compare" in open_page(client, "/year/bloom?beds=all&since=2026-01-01").text
    assert "31 February" not in open_page(client, "/year/bloom?beds=all&since=2027-02-31").text


def test_week_leads_to_a_class_page_for_a_lesson(educator: TestClient) -> None:
    link = next(one for one in open_page(educator, "/week").links if one.startswith("/journal/classes?"))
    page = open_page(educator, link)
    chosen = re.search(r'<option value="([^"]+)" selected', page.html)
    assert chosen is not None
    assert f"group={chosen[1]}" in link
    assert f"on={page.form(MAKE).fields['on_day']}" in link
