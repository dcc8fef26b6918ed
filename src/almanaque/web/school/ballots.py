"""School: ballots on what to grow next, with crops that fit, and the votes of each class."""

from datetime import date
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.journal import class_ballots
from almanaque.commands.journal.class_ballots import BallotBox
from almanaque.commands.school import turn_of_year as commands
from almanaque.core.errors import BadInput
from almanaque.core.school import turn_of_year as rules
from almanaque.core.words.days import short_day
from almanaque.store.journal import class_ballots as ballot_store
from almanaque.store.school import turn_of_year
from almanaque.store.school.turn_of_year import Ballot
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
Note = Annotated[RequestScope, Depends(may("note"))]
VOTES_EACH = 2


@router.get("/school/ballots")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _list(work)


class BallotForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    from_day: str = ""
    to_day: str = ""


@router.post("/school/ballots")
def begin(scope: Plan, sent: Annotated[BallotForm, Form()]) -> Response:
    """Begin a ballot on what can be started in some weeks."""
    form = {"name": sent.name, "from_day": sent.from_day, "to_day": sent.to_day}
    try:
        with scope.open() as work:
            ballot = Ballot(
                forms.row_id(sent.id),
                forms.name(sent.name),
                parse_day(sent.from_day, field="from_day"),
                parse_day(sent.to_day, field="to_day"),
                None,
            )
            commands.begin_ballot(work.connection, work.context, ballot, today=work.today)
            return frame.go(work, f"/school/ballots/{ballot.id}")
    except BadInput as error:
        with scope.open() as work:
            return _list(work, form, error=error, status=422)


@router.get("/school/ballots/{ballot_id}")
def one(scope: Look, ballot_id: UUID) -> Response:
    with scope.open() as work:
        return _page(work, ballot_id)


@router.post("/school/ballots/{ballot_id}")
def vote(
    scope: Note,
    ballot_id: UUID,
    group: Annotated[str, Form()] = "",
    action: Annotated[str, Form()] = "vote",
    out: Annotated[str, Form()] = "",
) -> Response:
    """Keep a class's votes; take one ballot out of the box; end the ballot, or open it again."""
    sent = {key: str(value) for key, value in scope.request.state.form.items()}
    try:
        with scope.open() as work:
            if action == "count":
                class_ballots.count(work.connection, work.context, ballot_id, forms.row_id(group))
            elif out:
                ballot_store.take_out(work.connection, ballot_id, forms.row_id(out))
            elif action in ("end", "open"):
                turn_of_year.ballot(work.connection, ballot_id)
                turn_of_year.end_ballot(work.connection, ballot_id, work.today if action == "end" else None)
            else:
                counts = {
                    crop: forms.whole(
                        sent.get(f"votes-{crop}", "").strip() or "0",
                        field="votes",
                        least=0,
                        most=500,
                        what="votes",
                    )
                    for crop, _ in turn_of_year.ballot_crops(work.connection, ballot_id)
                }
                commands.vote(
                    work.connection, work.context, ballot_id, forms.row_id(group), counts, most_each=VOTES_EACH
                )
            return frame.go(work, f"/school/ballots/{ballot_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, ballot_id, error=error, sent=sent, status=422)


def _list(
    work: UnitOfWork, form: dict[str, str] | None = None, *, error: BadInput | None = None, status: int = 200
) -> Response:
    following = next((year for year in work.context.calendar.years if year.starts > work.today), None)
    first = following.starts if following else work.today
    usual = {
        "name": f"What we grow in {following.name}" if following else "",
        "from_day": max(first, work.today).isoformat(),
        "to_day": "",
    }
    values = {
        "ballots": [
            {
                "id": str(b.id),
                "name": b.name,
                "days": words.span(b.from_day, b.to_day),
                "ended": words.short_day(b.closed_on) if b.closed_on else "",
                "votes": sum(count for _, _, count in turn_of_year.votes(work.connection, b.id)),
            }
            for b in turn_of_year.ballots(work.connection)
        ],
        "form": {**usual, **(form or {})},
        "new_id": str(uuid4()),
        "error": error.message if error else "",
    }
    return frame.page(work, "school", "Ballots", values, template="school/ballots.html", status=status)


def _page(
    work: UnitOfWork,
    ballot_id: UUID,
    *,
    error: BadInput | None = None,
    sent: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    ballot = turn_of_year.ballot(work.connection, ballot_id)
    crops = dict(turn_of_year.ballot_crops(work.connection, ballot_id))
    votes = turn_of_year.votes(work.connection, ballot_id)
    names = work.context.group_names(work.today)
    groups = [g for g in work.context.groups_on(work.today) if g.kind in ("class", "club", "mixed", "special")]
    boxes = {g.id: class_ballots.box(work.connection, work.context, ballot_id, g.id) for g in groups}
    given: dict[str, dict[str, int]] = {}
    for group, crop, count in votes:
        given.setdefault(group, {})[crop] = count
    tallies = rules.tally(votes, crops)
    most = max((t.total for t in tallies), default=0)
    values: dict[str, Any] = {
        "ballot": {
            "id": str(ballot.id),
            "name": ballot.name,
            "days": words.span(ballot.from_day, ballot.to_day),
            "ended": words.short_day(ballot.closed_on) if ballot.closed_on else "",
        },
        "rows": [
            {
                "key": t.crop,
                "name": work.context.crop_name(t.crop),
                "code": work.context.crops[t.crop].code if t.crop in work.context.crops else "",
                "total": t.total,
                "why": _why(crops[t.crop]),
                "share": round(100 * t.total / most) if most else 0,
                "by_class": ", ".join(f"{names.get(g, 'a class')} {n}" for g, n in t.by_class.items() if n),
            }
            for t in tallies
        ],
        "ordered": [
            (crop, work.context.crop_name(crop)) for crop in sorted(crops, key=lambda c: work.context.crop_name(c))
        ],
        "groups": [
            {
                "id": str(g.id),
                "name": names.get(str(g.id), g.name),
                "heads": g.head_count,
                "given": given.get(str(g.id), {}),
                "voted": str(g.id) in given,
                "box": _filled(boxes[g.id]),
                "wishes": [(str(one.id), one.wish) for one in boxes[g.id].wishes],
                "typed": {c: (sent or {}).get(f"votes-{c}", "") for c in crops}
                if sent and sent.get("group") == str(g.id)
                else None,
            }
            for g in groups
        ],
        "each": VOTES_EACH,
        "error": error.message if error else "",
    }
    return frame.page(work, "school", ballot.name, values, template="school/ballot.html", status=status)


def _filled(box: BallotBox) -> str:
    """What children of a class filled in themselves, in words; empty where they did not."""
    if not box.cast:
        return ""
    home = f", {box.from_home} from home" if box.from_home else ""
    return f"{words.count(len(box.cast), 'ballot')} filled in by children{home}, of {box.children} children"


def _why(text: str) -> str:
    """`picked from 2027-10-01 on` with the day in words."""
    head, _, rest = text.partition("picked from ")
    day, _, tail = rest.partition(" on")
    try:
        return f"{head}picked from {short_day(date.fromisoformat(day))} on{tail}"
    except ValueError:
        return text
