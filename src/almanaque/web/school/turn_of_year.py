"""School: the turn of the year, step by step, and the book closed with a sentence for each bed."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.school import turn_of_year as commands
from almanaque.commands.seeds import seed_box as seed_commands
from almanaque.core.errors import BadInput
from almanaque.core.school import classes
from almanaque.core.school import turn_of_year as rules
from almanaque.store.errors import Stale
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.store.school import turn_of_year
from almanaque.store.school.school import YearRow
from almanaque.store.school.turn_of_year import BedYear
from almanaque.web import forms, frame, seen, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
Head = Annotated[RequestScope, Depends(may("calendar"))]
TITLES = {
    "plantings": "Plantings finished",
    "beds": "Beds, with a sentence for each",
    "seed": "Seed in",
    "book": "The book",
    "groups": "Groups move up",
    "calendar": "Next year's calendar",
    "map": "Next season's map in pencil",
}


@router.get("/school/turn")
def page(scope: Look, year: str = "") -> Response:
    with scope.open() as work:
        return _page(work, year)


@router.post("/school/turn/plantings")
def plantings(scope: Plan, year: Annotated[str, Form()] = "", day: Annotated[str, Form()] = "") -> Response:
    """Note the chosen plantings as cleared."""
    chosen = [str(value) for value in scope.request.state.form.getlist("planting")]
    try:
        with scope.open() as work:
            if not chosen:
                raise BadInput("school.cleared_plantings_missing", field="planting")
            on = parse_day(day) if day else work.today
            commands.finish(work.connection, work.context, [forms.row_id(c) for c in chosen], on, work.actor())
            return _back(work, year)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


@router.post("/school/turn/beds")
def beds(scope: Plan, year: Annotated[str, Form()] = "") -> Response:
    """Keep the state of each bed and its sentence."""
    sent = {key: str(value) for key, value in scope.request.state.form.items()}
    try:
        with scope.open() as work:
            chosen = _year(work, year)
            turn_of_year.hold_bed_years(work.connection, work.context.school.id, chosen.id)
            kept = turn_of_year.bed_years(work.connection, chosen.id)
            rows = [
                row
                for bed in garden.beds(work.connection)
                if f"sentence-{bed.id}" in sent and (row := _wish(bed, sent, kept.get(bed.id))) is not None
            ]
            commands.keep_beds(work.connection, work.context, chosen, rows)
            return _back(work, year)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


def _wish(bed: Bed, sent: Mapping[str, str], now: BedYear | None) -> BedYear | None:
    """What somebody wants kept of a bed; None for one that they left as it was shown and that somebody else has changed since.

    Raises Stale where both have changed it.
    """
    wish = BedYear(bed.id, sent.get(f"state-{bed.id}", ""), " ".join(sent[f"sentence-{bed.id}"].split()))
    shown = sent.get(f"shown-{bed.id}")
    as_shown = now is not None and shown == seen.fingerprint(now.state, now.sentence)
    if as_shown or sent.get(f"kept-{bed.id}") in (None, seen.fingerprint(now)):
        return wish
    if shown == seen.fingerprint(wish.state, wish.sentence):
        return None
    raise Stale(
        f"Someone else changed what is said of {bed.name} in the meantime. Nothing of yours was written; "
        "copy your sentence, load the page again, and put both together."
    )


@router.post("/school/turn/step")
def step(
    scope: Plan, year: Annotated[str, Form()] = "", name: Annotated[str, Form()] = "", done: Annotated[str, Form()] = ""
) -> Response:
    """Tick a step off, or open it again."""
    with scope.open() as work:
        chosen = _year(work, year)
        turn_of_year.set_step(
            work.connection,
            work.context.school.id,
            chosen.id,
            forms.one_of(name, rules.STEPS, field="name"),
            day=work.today if done == "1" else None,
            by=scope.visitor.account_id,
        )
        return _back(work, year)


@router.post("/school/turn/calendar")
def calendar(scope: Head, year: Annotated[str, Form()] = "") -> Response:
    """Make next year's calendar from this one's."""
    try:
        with scope.open() as work:
            commands.make_next_year(work.connection, work.context, _year(work, year))
            return _back(work, year)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


@router.post("/school/turn/map")
def pencil(
    scope: Plan,
    year: Annotated[str, Form()] = "",
    ballot: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
) -> Response:
    """Pencil next season's map from rotation and wishes into a draft of its own."""
    try:
        with scope.open() as work:
            chosen = _year(work, year)
            made = commands.pencil_next(
                work.connection,
                work.context,
                chosen,
                ballot_id=forms.optional_id(ballot),
                name=forms.optional_name(name, field="name") or "Next season, from rotation and wishes",
                actor=work.actor(),
            )
            return _page(work, year, made=made)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


@router.post("/school/turn/close")
def close(scope: Head, year: Annotated[str, Form()] = "") -> Response:
    """Close the year's book."""
    try:
        with scope.open() as work:
            commands.close(
                work.connection,
                work.context,
                _year(work, year),
                today=work.today,
                at=scope.clock.now(),
                by=scope.visitor.account_id,
            )
            return _back(work, year)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


@router.post("/school/turn/reopen")
def reopen(
    scope: Head,
    closing: Annotated[str, Form()] = "",
    why: Annotated[str, Form()] = "",
    year: Annotated[str, Form()] = "",
) -> Response:
    """Open a closed book again, with the reason."""
    try:
        with scope.open() as work:
            commands.reopen(
                work.connection,
                forms.row_id(closing),
                today=work.today,
                at=scope.clock.now(),
                by=scope.visitor.account_id,
                why=why,
            )
            return _back(work, year)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, year, error=error, status=422)


def _year(work: UnitOfWork, text: str) -> YearRow:
    return commands.year_of(work.context, forms.optional_id(text), work.today)


def _back(work: UnitOfWork, year: str) -> Response:
    return frame.go(work, "/school/turn", **({"year": year} if year else {}))


def _page(
    work: UnitOfWork, text: str, *, error: BadInput | None = None, made: commands.Map | None = None, status: int = 200
) -> Response:
    if not any(year.starts <= work.today for year in work.context.years):
        return frame.page(work, "school", "Turn of the year", {"year": None}, template="school/turn_of_year.html")
    try:
        year = _year(work, text)
    except BadInput:
        year = commands.year_of(work.context, None, work.today)
    after = commands.following(work.context, year)
    done = turn_of_year.steps(work.connection, year.id)
    kept = turn_of_year.bed_years(work.connection, year.id)
    suggested = commands.suggested(work.connection, work.context, year, work.today)
    standing = commands.still_in(work.connection, work.context, year, work.today)
    closings = [c for c in turn_of_year.closed_times(work.connection) if c.school_year_id == year.id]
    last = work.context.calendar.last_school_day(year.core())
    values: dict[str, Any] = {
        "year": {"id": str(year.id), "name": year.name},
        "years": [(str(y.id), y.name) for y in reversed(work.context.years) if y.starts <= work.today],
        "error": error.message if error else "",
        "steps": [_step(key, done.get(key)) for key in rules.STEPS],
        "going": [_open(o) for o in standing if not o.stays],
        "staying": [_open(o) for o in standing if o.stays],
        "beds": [
            {
                "id": str(bed.id),
                "name": bed.name,
                "state": kept[bed.id].state if bed.id in kept else "",
                "sentence": kept[bed.id].sentence if bed.id in kept else suggested.get(bed.id, ""),
                "kept": bed.id in kept,
                "kept_as": seen.fingerprint(kept.get(bed.id)),
                "shown_as": seen.fingerprint(
                    kept[bed.id].state if bed.id in kept else next(iter(rules.STATES)),
                    " ".join((kept[bed.id].sentence if bed.id in kept else suggested.get(bed.id, "")).split()),
                ),
            }
            for bed in garden.beds(work.connection)
        ],
        "states": [(state, state or "not said yet") for state in rules.STATES],
        "seed": [
            s.crop.name.en + ", " + s.bed.name
            for s in seed_commands.savable(work.connection, work.context, work.today)
            if s.good
        ],
        "without_weight": commands.without_weight(work.connection, work.context, year, work.today),
        "turn": _groups(work, after),
        "next": {"id": str(after.id), "name": after.name, "starts": words.long_day(after.starts)} if after else None,
        "ballots": [("", "no votes"), *((str(b.id), b.name) for b in turn_of_year.ballots(work.connection))],
        "closings": [
            {
                "id": str(c.id),
                "days": f"{words.short_day(c.from_day)} {c.from_day.year} – {words.short_day(c.to_day)} {c.to_day.year}",
                "closed": words.long_day(c.closed_on),
                "reopened": words.long_day(c.reopened_on) if c.reopened_on else "",
                "why": c.why,
            }
            for c in closings
        ],
        "last_school_day": words.long_day(last) if last else "",
        "summer_to": words.long_day(commands.last_day(work.context, year)),
        "may_close": last is None or work.today > last,
        "made": {
            "draft": str(made.draft_id),
            "placed": [
                (
                    work.context.crops[p.wish.crop].name.en,
                    p.name,
                    words.count(len(p.cells), "square"),
                    words.short_day(p.wish.start),
                    p.wish.why,
                    "new to this bed" if p.rested is None else f"rested {words.count(p.rested, 'year')}",
                )
                for p in made.placed
            ],
            "left": [(work.context.crops[w.wish.crop].name.en, w.wish.why, w.reason) for w in made.left],
        }
        if made
        else None,
    }
    return frame.page(work, "school", "Turn of the year", values, template="school/turn_of_year.html", status=status)


def _step(key: str, done: Any) -> dict[str, str]:
    return {"key": key, "title": TITLES[key], "done": words.short_day(done) if done else ""}


def _open(row: commands.Open) -> dict[str, str]:
    to = row.planting.dates.clear_by if row.planting.dates else None
    return {
        "id": str(row.planting.id),
        "name": row.crop.name.en,
        "bed": row.bed.name,
        "until": "stays for years"
        if row.crop.life == "perennial"
        else f"until {words.short_day(to)} {to.year}"
        if to
        else "",
    }


@dataclass(frozen=True)
class TurnGroupsView(View):
    """Filled by `_groups`, read by its template."""

    moving: list[tuple[str, ...]]
    leaving: list[str]
    arriving: list[str]
    entry_missing: bool
    entry_grade: str


def _groups(work: UnitOfWork, after: YearRow | None) -> TurnGroupsView | None:
    """What the first day of the next year changes for the classes."""
    if after is None or not work.context.groups:
        return None
    found = classes.turn_of_year(after.core(), [g.cohort for g in work.context.groups], work.context.school.grades)
    names = {str(g.id): g.name for g in work.context.groups}
    return TurnGroupsView(
        moving=[(names[i], before, now) for i, before, now in found.moving],
        leaving=[names[i] for i in found.leaving],
        arriving=[names[i] for i in found.arriving],
        entry_missing=found.entry_missing,
        entry_grade=work.context.school.grades.name(0),
    )
