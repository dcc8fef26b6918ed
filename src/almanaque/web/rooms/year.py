"""Year: the beds by weeks of the school year, read only, with what ripens in a break."""

from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.commands import drafts
from almanaque.core.findings import lead
from almanaque.store import garden
from almanaque.web import frame, words
from almanaque.web.desk import Desk, may
from almanaque.web.pictures import year_chart

router = APIRouter()
OPEN = ("pencilled", "planned", "in the ground")


@router.get("/year")
def year(desk: Annotated[Desk, Depends(may("look"))]) -> Response:
    with desk.open() as room:
        shown = room.context.calendar.year_of(room.day)
        if shown is None:
            return frame.page(room, "year", "School year", {"chart": None, "summary": "", "groups": [], "rows": []})
        beds = garden.beds(room.connection)
        names = {bed.id: bed.name for bed in beds}
        present = drafts.on_table(
            room.connection, garden.plantings(room.connection, since=shown.starts, until=shown.ends)
        )
        # A verdict speaks of the first picking season; a perennial in a later one has none yet.
        judged = [p for p in present if p.status in OPEN and p.dates and p.dates.last_pick >= room.day]
        groups = []
        for verdict, title in (("misses", "Misses the school year"), ("with care", "Needs a hand")):
            group = [
                {
                    "bed": names[p.bed_id],
                    "bed_id": str(p.bed_id),
                    "crop": room.context.crops[p.crop].name.en,
                    "lead": lead(p.findings),
                }
                for p in judged
                if p.verdict == verdict
            ]
            groups.append({"title": title, "items": group})
        over = sum(p.status in ("finished", "lost") for p in present)
        fits = sum(p.verdict == "fits" for p in judged)
        summary = words.joined(
            [
                words.count(len(present), "planting"),
                f"{over} over",
                f"{fits} of {len(judged)} to come fit the school year",
            ]
        )
        chart = year_chart.draw(room.context, shown, beds, present, day=room.day, today=room.today)
        rows = [(row.name, bar.label) for row in chart.rows for bar in row.bars]
        values = {"chart": chart, "summary": summary, "groups": groups, "rows": rows}
        return frame.page(room, "year", f"School year {shown.name}", values)
