"""Journal: everything that was seen and done, newest first; notes; what to come back to; remedies; heights; photos."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from itertools import groupby
from typing import Annotated, Any, Literal, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from almanaque.commands.garden import neighbour_trials
from almanaque.commands.journal import notes, timeline
from almanaque.commands.journal.timeline import TimelineEntry
from almanaque.commands.week.reminders import come_back
from almanaque.core.errors import BadInput
from almanaque.core.garden.own_experience import sentence
from almanaque.core.journal.sightings import tally
from almanaque.formats import csv_table
from almanaque.store.garden import garden
from almanaque.store.journal import class_counts, home_answers, journal_entries, photos, sightings
from almanaque.store.journal.timeline import WHATS, What
from almanaque.web import forms, frame, words
from almanaque.web.pictures import charts
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Write = Annotated[RequestScope, Depends(may("note"))]
SHOWN = 60
MOST_OUT = 100_000
WHAT_WORDS: dict[What, str] = {
    "note": "notes",
    "seen": "what was seen",
    "photo": "photos",
    "happened": "what happened",
    "picked": "pickings",
}


@router.get("/journal")
def page(
    scope: Look, bed: str = "", planting: str = "", what: str = "", search: str = "", before: str = ""
) -> Response:
    with scope.open() as work:
        form = {"id": str(uuid4()), "bed": bed if _is_id(bed) else "", "body": "", "come_back_on": ""}
        return _page(work, form, JournalFilter.read(work, bed, planting, what, search, before))


class NoteForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    bed: str = ""
    body: str = ""
    come_back_on: str = ""


@router.post("/journal")
def write(scope: Write, sent: Annotated[NoteForm, Form()]) -> Response:
    """Keep a note, dated today. What cannot be kept stays in the form."""
    try:
        with scope.open() as work:
            notes.write(
                work.connection,
                work.context,
                _id(sent.id),
                body=sent.body,
                bed_id=_id(sent.bed) if sent.bed else None,
                come_back_on=forms.optional_day(sent.come_back_on, field="come_back_on"),
                actor=work.actor(),
            )
            return frame.go(work, "/journal")
    except BadInput as error:
        with scope.open() as work:
            values = sent.model_dump()
            return _page(work, values, JournalFilter(), error=error, status=422)


@router.post("/journal/{entry_id}/close")
def close(
    scope: Write,
    entry_id: UUID,
    to: Annotated[str, Form()] = "",
    kind: Annotated[Literal["note", "trouble"], Form()] = "note",
) -> Response:
    """Settle a note that was to come back, or a trouble that is gone."""
    with scope.open() as work:
        if kind == "trouble":
            sightings.sighting(work.connection, entry_id)
            sightings.close(work.connection, str(entry_id), work.today)
        else:
            journal_entries.close(work.connection, entry_id, work.today)
        return frame.go(work, "/week" if to == "week" else "/journal")


@router.get("/journal/heights")
def heights(scope: Look, crop: str = "") -> Response:
    """Heights over time, by planting or by team, as a chart that a class can read."""
    with scope.open() as work:
        found = _heights(work)
        keys = sorted({f.crop for f in found}, key=lambda key: work.context.crops[key].name.en)
        chosen = crop if crop in keys else keys[0] if keys else ""
        mine = sorted((f for f in found if f.crop == chosen), key=lambda f: f.day)
        inch = work.context.school.units == "us"
        rows = [
            {
                "day": f.day.isoformat(),
                "who": f.who,
                "height": round(f.mm / (25.4 if inch else 10), 1),
            }
            for f in mine
        ]
        unit = "inches" if inch else "centimetres"
        name = work.context.crops[chosen].name.en if chosen else ""
        sentence = _heights_sentence(name, rows, unit)
        values = {
            "crops": [(key, work.context.crops[key].name.en) for key in keys],
            "chosen": chosen,
            "sentence": sentence,
            "chart": charts.height_chart(rows, unit=unit, description=sentence) if rows else "",
            "rows": [
                {"day": words.short_day(f.day), "who": r["who"], "height": f"{r['height']:g}"}
                for f, r in zip(mine, rows, strict=True)
            ],
            "unit": unit,
        }
        return frame.page(
            work, "journal", f"Heights{f': {name.lower()}' if name else ''}", values, template="journal/heights.html"
        )


@dataclass(frozen=True)
class MeasuredHeight:
    """A height [mm] of a crop, by whom or where."""

    crop: str
    day: date
    who: str
    mm: float


def _heights(work: UnitOfWork) -> list[MeasuredHeight]:
    """What was measured up to the ribbon's day; what a class measured on its page is marked, until somebody took it over."""
    seen = [
        MeasuredHeight(f.crop, f.seen.day, f.seen.team or f.bed_name, f.seen.amount or 0.0)
        for f in sightings.sightings(work.connection, until=work.day)
        if f.seen.kind == "height" and f.crop
    ]
    counted = [
        MeasuredHeight(row.crop, row.count.day, f"{row.count.team} (class count)", row.count.amount)
        for row in class_counts.between(work.connection, ["height"], ends=work.day)
        if row.crop and not row.taken_over
    ]
    return [one for one in (*seen, *counted) if one.crop in work.context.crops]


def _heights_sentence(name: str, rows: list[dict[str, Any]], unit: str) -> str:
    """What the chart shows, in words."""
    if not rows:
        return ""
    last = {row["who"]: row for row in rows}
    tallest = max(last.values(), key=lambda row: row["height"])
    said = (
        f"{name}: {words.count(len(rows), 'measurement')} by {words.count(len(last), 'team or bed', 'teams or beds')}; "
        f"the tallest now is {tallest['who']} with {tallest['height']:g} {unit}"
    )
    return f"{said}."


@router.get("/journal/photos/{photo_id}")
def photo(scope: Look, photo_id: UUID, size: Literal["picture", "small"] = "picture") -> Response:
    """A photo, to those of its school."""
    with scope.open() as work:
        body = photos.picture(work.connection, photo_id, size)
        return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=604800"})


@router.post("/journal/photos/{photo_id}/delete")
def delete_photo(scope: Annotated[RequestScope, Depends(may("plan"))], photo_id: UUID) -> Response:
    """Take a photo out for good, such as one with a child in it."""
    with scope.open() as work:
        photos.delete(work.connection, photo_id)
        return frame.go(work, "/journal", what="photo")


@router.get("/journal.csv")
def as_csv(scope: Look, bed: str = "", planting: str = "", what: str = "", search: str = "") -> Response:
    with scope.open() as work:
        found = _out(work, JournalFilter.read(work, bed, planting, what, search, ""))
        header = ["Day", "What", "Bed", "Crop", "Variety", "Words", "Come back on", "Settled on"]
        rows = [
            [e.day.isoformat(), e.what, e.bed, e.crop, e.variety, e.words, _iso(e.come_back_on), _iso(e.closed_on)]
            for e in found
        ]
        return Response(
            csv_table.write(header, rows),
            media_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": "attachment; filename=journal.csv"},
        )


@router.get("/journal.json")
def as_json(scope: Look, bed: str = "", planting: str = "", what: str = "", search: str = "") -> Response:
    with scope.open() as work:
        found = _out(work, JournalFilter.read(work, bed, planting, what, search, ""))
        told = [
            {
                "id": str(e.id),
                "day": e.day.isoformat(),
                "what": e.what,
                "bed": e.bed,
                "planting": str(e.planting_id) if e.planting_id else None,
                "crop": e.crop,
                "variety": e.variety,
                "words": e.words,
                "come_back_on": _iso(e.come_back_on) or None,
                "settled_on": _iso(e.closed_on) or None,
            }
            for e in found
        ]
        return JSONResponse(
            {"school": work.context.school.name, "entries": told},
            headers={"Content-Disposition": "attachment; filename=journal.json"},
        )


def _out(work: UnitOfWork, chosen: "JournalFilter") -> list[TimelineEntry]:
    return chosen.entries(work, until=work.day, limit=MOST_OUT)


def _iso(day: date | None) -> str:
    return day.isoformat() if day else ""


class JournalFilter:
    """What part of the journal is asked for."""

    def __init__(
        self,
        bed_id: UUID | None = None,
        planting_id: UUID | None = None,
        what: str = "",
        search: str = "",
        until: date | None = None,
    ) -> None:
        self.bed_id, self.planting_id, self.what, self.search, self.until = bed_id, planting_id, what, search, until

    @classmethod
    def read(cls, work: UnitOfWork, bed: str, planting: str, what: str, search: str, before: str) -> "JournalFilter":
        """From the address. Raises BadInput or NotFound for a bed or planting of another school."""
        bed_id = garden.bed(work.connection, _id(bed)).id if bed else None
        planting_id = garden.planting(work.connection, _id(planting)).id if planting else None
        until = parse_day(before, field="before") if before else None
        return cls(
            bed_id, planting_id, what if what in WHATS else "", " ".join(search.replace("\0", "").split())[:60], until
        )

    def entries(self, work: UnitOfWork, *, until: date, limit: int) -> list[TimelineEntry]:
        """What it asks for of the timeline."""
        return timeline.entries(
            work.connection,
            work.context,
            until=until,
            limit=limit,
            bed_id=self.bed_id,
            planting_id=self.planting_id,
            what=cast(What, self.what) if self.what else None,
            search=self.search,
        )

    @property
    def query(self) -> dict[str, str]:
        given = {"bed": self.bed_id, "planting": self.planting_id, "what": self.what, "search": self.search}
        return {name: str(value) for name, value in given.items() if value}


def _page(
    work: UnitOfWork, form: dict[str, str], chosen: JournalFilter, *, error: BadInput | None = None, status: int = 200
) -> Response:
    until = min(chosen.until or work.day, work.day)
    found = chosen.entries(work, until=until, limit=SHOWN + 1)
    more = found[SHOWN].day if len(found) > SHOWN else None
    shown = found[:SHOWN]
    planting = garden.planting(work.connection, chosen.planting_id) if chosen.planting_id else None
    of = [
        r for r in sightings.remedies(work.connection) if chosen.planting_id is None or r[1] == str(chosen.planting_id)
    ]
    values: dict[str, Any] = {
        "days": _by_day(shown),
        "from_home": len(home_answers.held(work.connection)),
        "more": more.isoformat() if more and more < until else "",
        "query": chosen.query,
        "come_back": come_back(work.connection, work.context, work.day),
        "remedies": tally(remedy for remedy, _, _ in of),
        "neighbours": [
            (
                f"{work.context.crop_name(one.beside)} beside {work.context.crop_name(one.crop).lower()}",
                one.against,
                str(sentence(one)),
            )
            for one in neighbour_trials.own(work.connection, work.context)
        ],
        "beds": [(str(bed.id), f"{bed.name}, {bed.purpose.lower()}") for bed in garden.beds(work.connection)],
        "whats": [("", "everything"), *((key, name) for key, name in WHAT_WORDS.items())],
        "chosen": chosen,
        "about": f"{work.context.crops[planting.crop].name.en} of {words.short_day(planting.start_on)}"
        if planting
        else "",
        "form": form,
        "error": error.message if error else "",
        "error_field": error.field if error else "",
        "dated": frame.later_than_today(work),
        "longest": notes.LONGEST,
    }
    return frame.page(work, "journal", "Journal", values, status=status)


def _by_day(found: Iterable[TimelineEntry]) -> list[tuple[str, list[TimelineEntry]]]:
    return [(f"{words.weekday_day(day)} {day.year}", list(same)) for day, same in groupby(found, key=lambda e: e.day)]


def _id(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("journal.entry_form_incomplete") from None


def _is_id(text: str) -> bool:
    return forms.is_id(text)
