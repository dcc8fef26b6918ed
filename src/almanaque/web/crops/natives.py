"""Year: plants for visitors that are native to a region, by the months of their bloom, with who drinks and whose caterpillars eat."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.core.crops.crop import Crop, turned
from almanaque.core.crops.native_range import REGIONS
from almanaque.core.units import format_length
from almanaque.core.words import terms
from almanaque.core.words.days import MONTH_NAMES
from almanaque.data import native_range
from almanaque.formats.crops import portraits
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]


@dataclass(frozen=True)
class NativeView(View):
    """A plant of the list. `months` are whether it flowers in each month of the year where the school is."""

    key: str
    name: str
    botanical: str
    picture: str
    months: list[tuple[str, bool]]
    says: str
    facts: str
    drinkers: str
    host: str
    caution: str


@router.get("/year/natives")
def page(scope: Look, region: str = "") -> Response:
    """What is native to a region and flowers for visitors, the earliest first."""
    with scope.open() as work:
        shown = next((one for one in REGIONS if one == region), work.context.region)
        mine = [
            c
            for c in work.context.crops
            if native_range().is_native(c, shown) and c.nectar and (c.blooms or c.bloom_days)
        ]
        own = [c for c in mine if c.for_guests]
        rows = sorted(own, key=lambda c: (_first(work, c), c.name.en))
        values = {
            "rows": [_row(work, crop) for crop in rows],
            "regions": list(terms("region").items()),
            "shown": shown,
            "here": shown == work.context.region,
            "facts": f"{words.count(len(rows), 'plant')} of {terms('region')[shown]}, the earliest in bloom first",
        }
        return frame.page(work, "year", "Natives for visitors", values, template="crops/natives.html")


def _first(work: UnitOfWork, crop: Crop) -> int:
    """The first month of bloom; annuals, which flower when they are sown for it, come last."""
    months = turned(crop.blooms, southern=work.context.school.southern)
    return next((m for m in sorted(months) if m - 1 not in months and (m > 1 or 12 not in months)), 13)


def _row(work: UnitOfWork, crop: Crop) -> NativeView:
    months = turned(crop.blooms, southern=work.context.school.southern)
    says = ", ".join(MONTH_NAMES[m - 1] for m in sorted(months))
    if crop.bloom_days:
        says = f"from day {crop.bloom_days[0]} for {crop.bloom_days[1]} days"
    units = work.context.school.units
    return NativeView(
        key=crop.key,
        name=crop.name.en,
        botanical=crop.botanical,
        picture=portraits.address(crop, "emblem", px=24),
        months=[(name[:1], number in months) for number, name in enumerate(MONTH_NAMES, start=1)],
        says=says,
        facts=words.joined(
            [
                f"{format_length(crop.height_mm, units)} tall",
                f"{format_length(crop.width_mm, units)} wide",
                f"{crop.sun_least_h:g} h of sun",
                "spreads" if crop.spreads else "",
            ]
        ),
        drinkers=crop.drinkers,
        host=crop.host_for,
        caution=crop.caution,
    )
