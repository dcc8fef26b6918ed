"""Plan a season: a wish list, its limits and aims, and what the pages say of the demo's plan."""

from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.web.addresses import SEASON
from tests.web.pages import Page, open_page, post

PLAN = "7a4c9d2e-1f63-4b58-9a0e-5c2d8e6f7b31"
HERE = f"/year/plans/{PLAN}"


@pytest.fixture
def planner(coordinator: TestClient) -> TestClient:
    """A coordinator who has begun a plan for next year."""
    done = post(
        coordinator, "/year/plans", id=PLAN, name="Next year", starts="2027-08-25", ends="2028-05-30", action="begin"
    )
    assert done.status == 200, done.text
    return coordinator


def wish(client: TestClient, **said: str) -> Page:
    """Add a wish; what the page says then."""
    fields = {"id": str(uuid4()), "kind": "crop", "amount": "4", "unit": "squares", "action": "add", **said}
    return post(client, f"{HERE}/wishes", **fields)


def group_of(client: TestClient, name: str) -> str:
    """The id of a class, as the form offers it."""
    text = open_page(client, HERE).response.text
    return text.split(f">{name}</option>")[0].rpartition('value="')[2].partition('"')[0]


def test_wishes_are_typed_in_any_grain(planner: TestClient) -> None:
    assert "Carrot 6 squares" in wish(planner, crop="carrot", amount="6").text
    assert "Carrot or beet 4 squares" in wish(planner, crop="carrot", also="beet").text
    assert "Something quick 4 squares" in wish(planner, kind="quick").text
    assert "Any food 12 kinds" in wish(planner, kind="any food", amount="12", unit="kinds").text
    week = wish(planner, crop="potato", amount="2", unit="weight a week", ready_by="2027-09-06", ready_to="2027-09-24")
    assert "Potato 2.0 lb a week · ready 6 – 24 Sep" in week.text, week.text.partition("Potato")[2][:80]
    grade = group_of(planner, "Grade 3")
    each = wish(planner, crop="bush-bean", amount="1", unit="a plant each", group=grade)
    assert "Bush bean 24 plants · Grade 3" in each.text or "plants · Grade 3" in each.text


@pytest.mark.parametrize(
    ("said", "says"),
    [
        ({"crop": ""}, "Choose the crop of the wish"),
        ({"crop": "moonflower-of-nowhere"}, "Choose the crop of the wish"),
        ({"crop": "carrot", "amount": "none"}, "whole number"),
        ({"crop": "carrot", "amount": "-3"}, "whole number"),
        ({"crop": "carrot", "unit": "weight a week"}, "So much a week wants the day"),
        ({"crop": "carrot", "unit": "a plant each"}, "Choose the class whose children"),
        ({"crop": "carrot", "ready_to": "2027-10-01"}, "a day from which it is ready"),
        ({"crop": "carrot", "unit": "weight", "amount": "a handful"}, "handful"),
    ],
)
def test_a_wish_that_cannot_be_is_refused_in_words(planner: TestClient, said: dict[str, str], says: str) -> None:
    refused = wish(planner, **said)
    assert refused.status == 422
    assert says in refused.text


def test_wishes_are_taken_in_once_from_each_source(planner: TestClient) -> None:
    page = open_page(planner, HERE)
    for words in ("What we sow after the summer", "what grew a year before", "as many kinds as possible", "Salad bowl"):
        assert words in page.text
    assert "5 wishes taken in." in post(planner, f"{HERE}/from", source="idea:Soup").text
    assert "All of these are on the list already." in post(planner, f"{HERE}/from", source="idea:Soup").text
    assert "1 wish taken in." in post(planner, f"{HERE}/from", source="fill:flowers").text
    assert "wishes taken in." in post(planner, f"{HERE}/from", source="last year").text
    assert post(planner, f"{HERE}/from", source="idea:Nothing").status == 422
    assert post(planner, f"{HERE}/from", source=f"ballot:{uuid4()}").status == 404


def test_weight_limits_days_and_aims_are_changed(planner: TestClient) -> None:
    page = wish(planner, crop="carrot")
    number = next(form.fields["id"] for form in page.forms if form.action.startswith(f"{HERE}/wishes"))
    assert 'value="must" selected' in post(planner, f"{HERE}/wishes", id=number, action="weight", weight="must").html
    limits = {"minutes": "90", "break_beds": "2", "row_covers": "1"}
    saved = post(
        planner,
        "/year/plans",
        id=PLAN,
        name="Next year",
        starts="2027-08-25",
        ends="2027-12-01",
        action="save",
        **limits,
    )
    assert 'value="90"' in saved.html
    assert "25 Aug – 1 Dec" in saved.text
    moved = post(planner, f"{HERE}/aims", aim="fairness").text
    assert moved.index("every class sows and picks") < moved.index("that it comes true")
    bad = post(planner, "/year/plans", id=PLAN, name="x", starts="2027-08-25", ends="2027-08-01", action="save")
    assert (bad.status, "Swap the two" in bad.text) == (422, True)
    assert "Carrot" not in post(planner, f"{HERE}/wishes", id=number, action="delete").text.split("Add a wish")[0]
    assert "taken out" in post(planner, "/year/plans", id=PLAN, action="delete").text
    assert open_page(planner, HERE).status == 404


def test_parts_of_beds_and_money_are_limits_too(planner: TestClient) -> None:
    text = open_page(planner, HERE).response.text
    bed = text.split(">Bed 4</span>")[0].rpartition('name="beds" value="')[2].partition('"')[0]
    asked = {"id": PLAN, "name": "Next year", "starts": "2027-08-25", "ends": "2027-12-01", "action": "save"}
    saved = post(planner, "/year/plans", **asked, money="$45", squares_of=bed, squares="A1-B4")
    assert 'value="45.00"' in saved.html
    assert 'value="A1-B4"' in saved.html
    wish(planner, crop="kale")
    assert "1 of the crops wished for have no price there" in open_page(planner, HERE).text
    gone = post(planner, "/year/plans", **asked, squares_of=bed, squares="ZZ90")
    assert (gone.status, "Of Bed 4 the plan may use squares that are not there." in gone.text) == (422, True)
    much = post(planner, "/year/plans", **asked, money="a lot")
    assert (much.status, "a lot" in much.text) == (422, True)


def test_a_proposal_is_put_into_another_bed_from_the_list(coordinator: TestClient) -> None:
    page = open_page(coordinator, f"/year/plans/{SEASON}/surest")
    line = page.html.split("data-line=")[1]
    key, other = line[1:].partition('"')[0], line.split('<option value="')[1].partition('"')[0]
    done = post(coordinator, f"/year/plans/{SEASON}/surest/move", wish=key, bed=other)
    assert "It is put there. The plan is made again around it." in done.text
    assert "put there" in done.text
    off = post(coordinator, f"/year/plans/{SEASON}/surest/move", wish=key, bed=other, columns="-90", rows="0")
    assert "It does not fit on those squares" in off.text
    assert post(coordinator, f"/year/plans/{SEASON}/surest/move", wish=key, bed="nowhere").status == 422
    assert post(coordinator, f"/year/plans/{SEASON}/surest/move", wish=key, bed=other, columns="x").status == 422


def test_a_plan_is_begun_by_its_season(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/year/plans")
    season = page.html.split('name="season"')[1].split('<option value="')[2].partition('"')[0]
    begun = post(coordinator, "/year/plans", id=str(uuid4()), season=season, action="begin")
    assert begun.status == 200
    assert "Nothing is wished for yet." in begun.text


def test_a_plan_without_wishes_is_not_made_and_one_with_is_there_at_once(planner: TestClient) -> None:
    assert "Write down at least one wish." in post(planner, f"{HERE}/plan").text
    wish(planner, crop="kale")
    done = post(planner, f"{HERE}/plan")
    assert "A first plan; better ones are looked for." in done.text
    assert "1 of 1 wish" in done.text
    part = planner.get(f"{HERE}/proposals", headers={"HX-Request": "true"})
    assert 'hx-trigger="every 1s"' in part.text
    assert "It waits for its turn." in part.text
    assert "Stopped; this is the best that was found." in post(planner, f"{HERE}/stop").text


def test_the_demos_plan_is_shown_in_full(reader: TestClient) -> None:
    page = open_page(reader, f"/year/plans/{SEASON}")
    assert "The best there is." in page.text
    assert "13 of 14 wishes" in page.text
    one = open_page(reader, f"/year/plans/{SEASON}/surest")
    assert "Carrot sown in place on 25 Aug" in one.text
    assert "No day in this time suits pumpkin." in one.text
    assert open_page(reader, f"/year/plans/{SEASON}/surest?on=2027-10-15").status == 200
    assert open_page(reader, f"/year/plans/{SEASON}/nothing").status == 404


def test_a_viewer_looks_and_is_offered_no_button(viewer: TestClient) -> None:
    for path in ("/year/plans", f"/year/plans/{SEASON}", f"/year/plans/{SEASON}/surest"):
        page = open_page(viewer, path)
        assert page.status == 200
        written = [form.action for form in page.forms if form.method == "post"]
        assert not [action for action in written if action.startswith("/year/plans")]
