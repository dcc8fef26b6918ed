"""Portraits as pictures of their own, at addresses that stay the same: drawn once a process, and kept by browsers for good."""

import hashlib
import re
from dataclasses import dataclass
from datetime import date
from functools import cache, lru_cache
from importlib.resources import files
from math import ceil

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.plant_height import share_grown
from almanaque.core.portrait.drawing import STAGES, portrait
from almanaque.core.portrait.emblems import emblem, emblem_of
from almanaque.core.portrait.pen import Form
from almanaque.core.portrait.picture import BOX, PlantMeasures, Portrait, Stage, detail_of, svg
from almanaque.core.portrait.seedlings import seedling
from almanaque.core.portrait.space import View
from almanaque.core.portrait.stage import stage_at
from almanaque.data import catalogue, portraits

WEED = "weed-"
KEPT = 600  # drawings in a process, a few kB each: our own choice
KINDS = 3  # plants of a kind that are drawn, so that no two beside each other are alike: our own choice
LEAST_SHARE = 0.3  # of its width that a young plant has: our own rule
LIGHT_BYTES = 5120  # of a drawing at 48 pixels: a limit of ours
LEAFY = (1.0, 0.5)  # shares of its leaves that are tried until a small drawing is light: our own choice
PX_PER_MM = 96 / 25.4  # as style sheets count
FRUITS = ("fruit", "pod", "ear", "grain", "nut", "tuber", "flower", "seed")
_NAME = re.compile(r"([a-z-]+?)-(side|top)-([012])-([0-9])(-line)?")


def key_of(crop: Crop) -> str:
    """The row of portraits that a crop is drawn by: its own, that of the crop it was based on, else of a crop that is kin."""
    known = portraits()
    for key in (crop.key, crop.based_on or ""):
        if key in known:
            return key
    every = list(catalogue())
    kin = (
        [one for one in every if one.family == crop.family]
        or [one for one in every if one.group == crop.group]
        or every
    )
    return kin[0].key


def address(
    crop: Crop, stage: Stage | str, view: View = "side", px: float = 48, *, line: bool = False, number: int = 0
) -> str:
    """Where the picture of a crop at a stage (or its `emblem`) is."""
    name = f"{stage.replace(' ', '-')}-{view}-{detail_of(px)}-{number}{'-line' if line else ''}"
    return f"/portraits/{key_of(crop)}/{name}.svg?v={version()}"


def in_hand(crop: Crop, px: float = 48, *, line: bool = False) -> str:
    """The picture by which a crop is known when it is picked: in flower where its flowers are, else ripe."""
    return address(crop, "flower" if crop.part == "flower" else "ripe", px=px, line=line)


@cache
def version() -> str:
    """A short hash that changes when anything does that portraits are drawn by."""
    digest = hashlib.sha256((files("almanaque.data") / "portraits.toml").read_bytes())
    digest.update((files("almanaque.data") / "crops.toml").read_bytes())
    for part in sorted(files("almanaque.core.portrait").iterdir(), key=lambda path: path.name):
        if part.name.endswith(".py"):
            digest.update(part.read_bytes())
    return digest.hexdigest()[:10]


@lru_cache(maxsize=KEPT)
def file(key: str, name: str) -> str | None:
    """The SVG of such an address; None where there is none."""
    found = _NAME.fullmatch(name)
    if found is None:
        return None
    if key.startswith(WEED) and name.startswith("seedling-side") and key.removeprefix(WEED) in portraits().weeds:
        weed = portraits().weeds[key.removeprefix(WEED)].plant
        return svg(seedling(weed, "side", int(found[3])), size_px=BOX, form="line", name="p")
    if key not in portraits() or key not in catalogue():
        return None
    if int(found[4]) >= KINDS:
        return None
    view: View = "top" if found[2] == "top" else "side"
    form: Form = "line" if found[5] else "colour"
    if found[1] == "emblem":
        made = emblem(portraits()[key], emblem_of(catalogue()[key].part))
    else:
        stage = next((one for one in STAGES if one.replace(" ", "-") == found[1]), None)
        if stage is None:
            return None
        return _light(key, stage, view, int(found[3]), int(found[4]), form)
    return svg(made, size_px=BOX, form=form, name="p")


def _light(key: str, stage: Stage, view: View, detail: int, number: int, form: Form) -> str:
    """A drawing; a small one with as many of its leaves as a small file holds."""
    text = ""
    for leafy in LEAFY if detail < 2 else LEAFY[:1]:
        made = _drawn(key, stage, view, detail, number, leafy)
        text = svg(made, size_px=BOX, form=form, name="p")
        if len(text) <= LIGHT_BYTES:
            break
    return text


def _drawn(key: str, stage: Stage, view: View, detail: int, number: int = 0, leafy: float = 1.0) -> Portrait:
    crop = catalogue()[key]
    return portrait(
        portraits()[key],
        stage,
        view,
        height_mm=crop.height_mm,
        width_mm=crop.width_mm,
        detail=detail,
        number=number,
        leafy=leafy,
    )


@cache
def _paper(key: str, stage: Stage, view: View) -> tuple[float, PlantMeasures]:
    """The side [mm] of the paper that a portrait lies on, and what the plant measures; a drawing itself is not kept for it."""
    made = _drawn(key, stage, view, 2 if view == "side" else 0)
    return BOX / made.sheet().scale, made.measures


def weed_address(key: str, px: float) -> str:
    """Where the picture of a weed's seedling is, in line: what is coloured is ours."""
    return f"/portraits/{WEED}{key}/seedling-side-{detail_of(px)}-0-line.svg?v={version()}"


def seedling_height_mm(key: str) -> float:
    """A seedling's height over the ground [mm]."""
    return _paper(key, "seedling", "side")[1].height


def true_size_px(crop: Crop) -> int:
    """The side [px] at which a crop's seed is shown in its true size, on paper and on a screen that keeps to the style sheets' inch."""
    return max(1, ceil(_paper(key_of(crop), "seed", "side")[0] * PX_PER_MM))


@dataclass(frozen=True)
class PlantLook:
    """How a plant looks from above on a day: its picture, and the side of that picture [mm] at true size."""

    href: str
    side_mm: float


def look_on(
    crop: Crop,
    day: date,
    dates: GrowthDates | None,
    px_per_mm: float,
    *,
    southern: bool = False,
    number: int = 0,
    line: bool = False,
) -> PlantLook | None:
    """How a plant of a crop looks from above on a day, drawn for a scale, in `line` for crayons; None where nothing of it is up."""
    grown, stage = _stage_on(crop, day, dates, southern=southern)
    if stage is None:
        return None
    side, measures = _paper(key_of(crop), stage, "top")
    if stage != "seedling":  # a seedling's own size is true; of an older one the crop's
        side *= crop.width_mm / measures.width * (LEAST_SHARE + (1 - LEAST_SHARE) * grown)
    return PlantLook(address(crop, stage, "top", side * px_per_mm, line=line, number=number % KINDS), side)


def side_on(crop: Crop, day: date, dates: GrowthDates, *, southern: bool = False) -> str:
    """The picture of a plant from the side as it should look on a day; empty where nothing of it is up."""
    _, stage = _stage_on(crop, day, dates, southern=southern)
    return address(crop, stage, px=64) if stage else ""


def _stage_on(crop: Crop, day: date, dates: GrowthDates | None, *, southern: bool) -> tuple[float, Stage | None]:
    """Share of its growth and stage on a day. What comes again each year is grown, bears in its season, and is bare in its months."""
    if crop.life == "perennial" or dates is None:
        if day.month in crop.bare_in(southern=southern):
            return 1.0, "dead"
        picked = dates is not None and dates.first_pick <= day <= dates.last_pick
        return 1.0, ("flower" if crop.part == "flower" else "ripe") if picked else "grown"
    grown = share_grown(day, dates)
    if day > max(dates.last_pick, dates.stands_until or dates.last_pick):
        return grown, "dead" if crop.part in FRUITS and crop.part != "flower" else "gone to seed"
    stage = stage_at(grown, ripe=day >= dates.first_pick, fruits=crop.part in FRUITS)
    return grown, "flower" if stage == "ripe" and crop.part == "flower" else stage
