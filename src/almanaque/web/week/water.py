"""Week: what the beds, pots and young trees are to be given, with the weather that it rests on."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.week import bed_care
from almanaque.commands.week.bed_care import DripLook
from almanaque.commands.week.watering import BedWater, Watering, watering
from almanaque.core.units import format_area, format_rain, format_water
from almanaque.store.school import school
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
SCHOOLS = (
    ("inch", "by the inch: an inch a week, one and a half in a hot one, less the rain"),
    ("use", "by use: what grass would drink, times the crop, less the rain"),
)
METRIC_SCHOOLS = (("inch", "by depth: 25 mm a week, 38 in a hot one, less the rain"), SCHOOLS[1])


@dataclass(frozen=True)
class WaterRow:
    """A bed as the page shows it."""

    bed_id: str
    name: str
    ground: str
    depth: str
    amount: str
    ways: str
    why: str
    drip: str


@router.get("/week/water")
def page(scope: Look) -> Response:
    with scope.open() as work:
        found = watering(work.connection, work.context, work.day, today=work.today)
        looks = bed_care.drip_looks(work.connection)
        units = work.context.school.units
        values = {
            "rows": [_row(work, bed, found, looks.get(bed.bed.id)) for bed in found.beds],
            "trees": [
                {"bed_id": str(t.bed.id), "bed": t.bed.name, "name": t.name, "amount": format_water(t.litres, units)}
                for t in found.trees
            ],
            "facts": summary(work, found),
            "rests_on": _rests_on(work, found),
            "schools": SCHOOLS if units == "us" else METRIC_SCHOOLS,
            "school_now": work.context.school.water_by,
            "hose": _written(work, work.context.school.hose_l_min),
            "bottle": _written(work, work.context.school.bottle_l),
            "example": "4 gal" if units == "us" else "15 L",
            "small": "0.5 gal" if units == "us" else "1.5 L",
        }
        return frame.page(work, "week", "Water", values, template="week/water.html")


@router.post("/week/water")
def save(
    scope: Plan,
    water_by: Annotated[str, Form()] = "inch",
    hose: Annotated[str, Form()] = "",
    bottle: Annotated[str, Form()] = "",
) -> Response:
    """By which school the garden is watered, and with what."""
    with scope.open() as work:
        units, known = work.context.school.units, work.context.school
        chosen = forms.one_of(water_by, [key for key, _ in SCHOOLS], field="water_by")
        # What comes back as it was shown keeps its exact value.
        flow = known.hose_l_min if hose == _written(work, known.hose_l_min) else forms.volume(hose, units, field="hose")
        held = (
            known.bottle_l if bottle == _written(work, known.bottle_l) else forms.volume(bottle, units, field="bottle")
        )
        school.save_watering(
            work.connection, water_by="use" if chosen == "use" else "inch", hose_l_min=flow, bottle_l=held
        )
        return frame.go(work, "/week/water")


def summary(work: UnitOfWork, found: Watering) -> str:
    """The week's water in a line: how much over how many beds, and how long with the hose."""
    amount = format_water(found.litres, work.context.school.units)
    minutes = sum(bed.hose_minutes or 0 for bed in found.beds)
    return words.joined(
        [
            f"{amount} this week" if not found.ahead else f"{amount} in a usual week",
            words.count(len(found.beds), "bed")
            + (f" and {words.count(len(found.trees), 'young tree')}" if found.trees else ""),
            f"{words.count(minutes, 'minute')} with the hose" if minutes else "",
        ]
    )


def _row(work: UnitOfWork, bed: BedWater, found: Watering, look: DripLook | None) -> WaterRow:
    units = work.context.school.units
    ways = [
        f"{bed.hose_minutes} min hose" if bed.hose_minutes is not None else "",
        f"{bed.drip_minutes} min drip" if bed.drip_minutes is not None else "",
        f"{bed.bottles} × bottle" if bed.bottles is not None and bed.bottles <= MOST_BOTTLES else "",
    ]
    why = f"takes {format_rain(bed.need.takes_mm, units)}, rain gave {format_rain(bed.need.rain_mm, units)}"
    if found.ahead:
        why = f"takes {format_rain(bed.need.takes_mm, units)}"
    if bed.pot is not None:
        daily = format_water(bed.pot.litres_a_day, units)
        why = f"a pot: {daily} a day, " + (
            f"every {words.count(bed.pot.lasts_days, 'day')}"
            if bed.pot.lasts_days > 1
            else "every day"
            if bed.pot.lasts_days
            else "more than once a day"
        )
    return WaterRow(
        str(bed.bed.id),
        bed.bed.name,
        format_area(bed.planted_m2, units),
        format_rain(bed.need.give_mm, units),
        format_water(bed.litres, units),
        words.joined(ways),
        why,
        f"drip line {look.result}{f', {look.place}' if look.place else ''}, {words.short_day(look.day)}"
        if look
        else "",
    )


MOST_BOTTLES = 12  # more fillings than that nobody carries


def _rests_on(work: UnitOfWork, found: Watering) -> str:
    """Which weather counted, in a sentence."""
    if found.week is None:
        return "There is no weather on file, so every bed gets an inch; take off what the rain gauge shows."
    days = words.span(found.days[0], found.days[-1])
    if found.ahead:
        return f"For {days}, as usual weather has it. Water less when it rains."
    weather, units = found.week.weather, work.context.school.units
    missing = (
        f" {words.count(found.week.missing, 'day')} without a reading: usual use, no rain."
        if found.week.missing
        else ""
    )
    rain, use = format_rain(float(weather.rain_mm.sum()), units), format_rain(float(weather.et0_mm.sum()), units)
    return f"{days}: {rain} of rain fell, and grass would have drunk {use}.{' A hot week.' if weather.hot else ''}{missing}"


def _written(work: UnitOfWork, litres: float | None) -> str:
    return format_water(litres, work.context.school.units) if litres else ""
