"""Year: what flowers when, and where bees and caterpillars go without."""

from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.commands.garden import drafts
from almanaque.core.year import bloom
from almanaque.data import native_range
from almanaque.store.garden import garden
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.year import bloom_picture, visitors
from almanaque.web.year.numbered_notes import note

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
POLLINATORS = ("pollinator", "butterfl", "bees", "flower", "herb")


@router.get("/year/bloom")
def bloom_page(scope: Look, beds: str = "", since: str = "") -> Response:
    """What flowers when: in the beds for pollinators, or in all of them."""
    with scope.open() as work:
        year = work.context.calendar.year_of(work.day)
        starts = (
            date(work.day.year, 1, 1)
            if work.context.school.latitude >= 0
            else date(work.day.year - (work.day.month < 7), 7, 1)
        )
        ends = starts.replace(year=starts.year + 1) - timedelta(days=1)
        all_beds = garden.beds(work.connection)
        chosen = [b for b in all_beds if any(word in f"{b.name} {b.purpose}".lower() for word in POLLINATORS)]
        shown = all_beds if beds == "all" or not chosen else chosen
        season = _growing_season(work, starts)
        present = [
            p
            for p in drafts.on_table(work.connection, garden.plantings(work.connection, since=starts, until=ends))
            if p.dates and p.status != "lost" and any(p.bed_id == b.id for b in shown)
        ]
        rows, found = [], []
        names = {b.id: b.name for b in shown}
        for planting in present:
            crop = work.context.crops[planting.crop]
            assert planting.dates is not None
            to = ends if crop.life == "perennial" and planting.status != "finished" else planting.bed_to(work.today)
            mine = bloom.blooms(crop, planting.dates, starts, ends, bed_to=to, southern=work.context.school.southern)
            found += mine
            if mine or crop.host_for:
                rows.append((crop, names[planting.bed_id], mine))
        hosts = [(crop.name.en, crop.host_for) for crop, _, _ in rows if crop.host_for]
        said = bloom.findings(found, hosts, *season)
        came = visitors.read(work, {b.id for b in shown}, starts, ends, since)
        values = {
            "chart": bloom_picture.draw(
                rows, starts, ends, season, bloom.gaps(found, *season), day=work.day, visitors=came.weeks
            ),
            "visitors": came,
            "notes": [note(f, n) for n, f in enumerate(said, start=1)],
            "hosts": hosts,
            "all": shown is all_beds,
            "some": bool(chosen),
            "facts": words.joined(
                [
                    ", ".join(b.name for b in shown) if shown is not all_beds else "all beds",
                    words.count(len(rows), "planting"),
                    f"growing season {words.span(*season)}",
                ]
            ),
            "would": _would_fill(work, bloom.gaps(found, *season)),
            "year": year.name if year else "",
        }
        return frame.page(work, "year", f"In bloom {starts.year}", values, template="year/bloom.html")


def _growing_season(work: UnitOfWork, starts: date) -> tuple[date, date]:
    """From three weeks before the median last freeze to the median first; without freezes the warm half of the year."""
    climate = work.context.climate
    if climate is not None and climate.seasons:
        last = climate.date_of(climate.last_freeze(0.5), climate.season_start(starts))
        first = climate.date_of(climate.first_freeze(0.5), climate.season_start(starts + timedelta(days=200)))
        if last is not None and first is not None and last < first:
            return last - timedelta(days=21), first
    return starts + timedelta(days=60), starts + timedelta(days=305)


def _would_fill(work: UnitOfWork, holes: list[bloom.Gap]) -> list[tuple[str, list[tuple[str, str]]]]:
    """For each gap some plants of the catalogue that flower then, natives and hosts first."""
    southern = work.context.school.southern
    found = []
    for gap in holes:
        middle = (gap.starts + (gap.ends - gap.starts) / 2).month
        months = {(m + 5) % 12 + 1 for m in (middle,)} if southern else {middle}
        good = [c for c in work.context.crops if c.nectar and months & set(c.blooms)]
        good.sort(key=lambda c: (not native_range().is_native(c, work.context.region), not c.host_for, c.name.en))
        found.append((words.span(gap.starts, gap.ends), [(c.key, c.name.en) for c in good[:5]]))
    return found
