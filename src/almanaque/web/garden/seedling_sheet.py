"""Weed or seedling? What should come up in a bed around a day, drawn large and in its true size, beside weeds that are taken for it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.context import Context
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Crop
from almanaque.core.portrait.traits import Weed
from almanaque.data import portraits as plant_traits
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
BEFORE, AFTER = timedelta(days=14), timedelta(days=24)  # around coming up in which somebody asks: our own rule
MOST_WEEDS = 10
LARGE_PX, WEED_PX = 150, 96
FREEZES = 0.3  # chance of a freezing night in the coldest week from which a place is cool: our own rule
TROPICS_DEG = 23.5


@dataclass(frozen=True)
class ComesUp:
    """A planting whose seedlings are to be known: `real_px` is its height in true size, as a `bar`
    and, `real`, in words."""

    name: str
    count: str
    sown: str
    up: str
    state: str
    sign: str
    picture: str
    real_px: int
    bar: str
    real: str


@dataclass(frozen=True)
class WeedView:
    """A weed's seedling, and which crops of this bed it is taken for."""

    name: str
    sign: str
    picture: str
    taken_for: str


@dataclass(frozen=True)
class SeedlingSheetView(View):
    """What `garden/seedlings.html` is given."""

    bed: Bed
    day_words: str
    coming: list[ComesUp]
    next_words: str
    weeds: list[WeedView]
    to_colour: bool


@router.get("/garden/beds/{bed_id}/seedlings")
def seedling_sheet(scope: Look, bed_id: UUID, colour: bool = False) -> Response:
    """The sheet of a bed for the ribbon's day; to `colour` it is all in line."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        plantings = [
            p
            for p in garden.plantings(work.connection, bed_id=bed_id)
            if p.status in ("planned", "in the ground") and p.dates is not None and p.dates.emerge_from is not None
        ]
        here = [p for p in plantings if _asked_on(p, work.day)]
        crops = {p.crop: work.context.crops[p.crop] for p in here}
        view = SeedlingSheetView(
            bed=bed,
            day_words=words.long_day(work.day),
            coming=[_comes_up(work, bed, p, line=colour) for p in sorted(here, key=_up_from)],
            next_words=_next(work, plantings),
            weeds=_weeds(work.context, list(crops.values())),
            to_colour=colour,
        )
        title = f"What comes up in {bed.name}"
        return frame.page(work, "garden", title, view, template="garden/seedlings.html")


def _up_from(planting: Planting) -> date:
    assert planting.dates is not None
    return planting.dates.emerge_from or planting.dates.bed_from


def _asked_on(planting: Planting, day: date) -> bool:
    dates = planting.dates
    if dates is None or dates.emerge_from is None or dates.emerge_to is None:
        return False
    return planting.start_on <= day and dates.emerge_from - BEFORE <= day <= dates.emerge_to + AFTER


def _comes_up(work: UnitOfWork, bed: Bed, planting: Planting, *, line: bool) -> ComesUp:
    crop, dates = work.context.crops[planting.crop], planting.dates
    assert dates is not None
    assert dates.emerge_from is not None
    assert dates.emerge_to is not None
    key = portraits.key_of(crop)
    if planting.status == "planned":
        state = "not sown yet, as far as is written down"
    elif "up" in planting.events:
        state = f"seen up on {words.short_day(planting.events['up'])}"
    elif work.day < dates.emerge_from:
        state = "not yet"
    elif work.day <= dates.emerge_to:
        state = "any day now"
    else:
        state = "should be up"
    high = portraits.seedling_height_mm(key)
    bar = max(8, round(high * portraits.PX_PER_MM))
    return ComesUp(
        name=crop.name.en,
        count=words.count(layout_of(planting, bed, crop).plants, "plant"),
        sown=words.short_day(planting.start_on),
        up=words.span(dates.emerge_from, dates.emerge_to),
        state=state,
        sign=plant_traits()[key].sign,
        picture=portraits.address(crop, "seedling", px=LARGE_PX, line=line),
        real_px=bar,
        bar=f"M1 1h13M1 {bar - 1}h13M7.5 1V{bar - 1}",
        real=f"{high:.0f} mm",
    )


def _next(work: UnitOfWork, plantings: Sequence[Planting]) -> str:
    later = sorted((p for p in plantings if _up_from(p) > work.day), key=_up_from)
    if not later:
        return ""
    name = work.context.crops[later[0].crop].name.en.lower()
    return f"Next comes {name}, about {words.short_day(_up_from(later[0]))}."


def kind_of_place(context: Context) -> str:
    """Whether weeds of cool or of warm places grow here."""
    if context.climate is not None and context.climate.seasons:
        coldest = max(context.climate.freeze_chance(date(2027, 1, 1) + timedelta(days=7 * week)) for week in range(52))
        return "cool" if coldest >= FREEZES else "warm"
    return "warm" if abs(context.school.latitude or 50.0) < TROPICS_DEG else "cool"


def _weeds(context: Context, crops: Sequence[Crop]) -> list[WeedView]:
    """Ten weeds of the kind of place, those first that are taken for what comes up here."""
    keys = {portraits.key_of(crop): crop.name.en.lower() for crop in crops}
    place = kind_of_place(context)

    def alike(weed: Weed) -> list[str]:
        return [name for key, name in keys.items() if key in weed.taken_for]

    here = [(key, weed) for key, weed in plant_traits().weeds.items() if place in weed.places]
    here.sort(key=lambda one: -len(alike(one[1])))
    return [
        WeedView(
            weed.name,
            weed.plant.sign,
            portraits.weed_address(key, WEED_PX),
            f"taken for {', '.join(alike(weed))}" if alike(weed) else "",
        )
        for key, weed in here[:MOST_WEEDS]
    ]
