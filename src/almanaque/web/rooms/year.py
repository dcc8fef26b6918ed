"""Year: the beds by weeks of the school year, read only, with what ripens in a break."""

from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.store import garden
from almanaque.web import frame, words
from almanaque.web.desk import Desk, may
from almanaque.web.pictures import year_chart

router = APIRouter()


@router.get("/year")
def year(desk: Annotated[Desk, Depends(may("look"))]) -> Response:
    with desk.open() as room:
        shown = room.context.calendar.year_of(room.day)
        if shown is None:
            return frame.page(room, "year", "School year", {"chart": None, "summary": "", "groups": [], "rows": []})
        beds = garden.beds(room.connection)
        names = {bed.id: bed.name for bed in beds}
        present = garden.plantings(room.connection, since=shown.starts, until=shown.ends)
        judged = [p for p in present if p.status in ("pencilled", "planned", "in the ground")]
        groups = []
        for verdict, title in (("misses", "In the break, nobody to pick"), ("with care", "Needs a hand")):
            group = [
                {
                    "bed": names[p.bed_id],
                    "bed_id": str(p.bed_id),
                    "crop": room.context.crops[p.crop].name.en,
                    "lead": next((f.message for f in p.findings if f.severity != "note"), ""),
                }
                for p in judged
                if p.verdict == verdict
            ]
            groups.append({"title": title, "items": group})
        fits = sum(p.verdict == "fits" for p in judged)
        summary = words.joined(
            [
                words.count(len(present), "planting"),
                f"{len(present) - len(judged)} over",
                f"{fits} of {len(judged)} to come fit the school year",
            ]
        )
        chart = year_chart.draw(room.context, shown, beds, present, day=room.day, today=room.today)
        rows = [(row.name, bar.label) for row in chart.rows for bar in row.bars]
        values = {"chart": chart, "summary": summary, "groups": groups, "rows": rows}
        return frame.page(room, "year", f"School year {shown.name}", values)
