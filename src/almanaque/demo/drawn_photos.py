"""Photos of the demo, which are drawings and say so: a bed seen from its corner post, with its plants as they were on the day."""

import io
import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import Any

from PIL import Image, ImageDraw
from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.core.growth.plant_height import share_grown
from almanaque.core.portrait.drawing import portrait
from almanaque.core.portrait.pen import COLOURS, INK, Disc, Element
from almanaque.core.portrait.picture import Stage
from almanaque.core.portrait.stage import stage_at
from almanaque.data import portraits
from almanaque.demo.shapes import demo_id
from almanaque.formats.crops.portrait_raster import paint
from almanaque.formats.crops.portraits import FRUITS
from almanaque.formats.journal import photo as photo_format
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import photos, viewpoints
from almanaque.store.journal.photos import Photo

WIDTH, HEIGHT = 960, 720
TWICE = 2  # drawn so much larger, then made smaller, so that edges are smooth
POST = "corner post"
ROWS = ((470, 0.62), (560, 0.8), (662, 1.0))  # where rows of plants stand [pixels from above], and how large they are


@dataclass(frozen=True)
class DrawnPhoto:
    """What is drawn: a bed and a crop of it on a day."""

    bed: str
    crop: str
    day: date
    words: str


SCENES = (
    DrawnPhoto("Bed 1", "garlic", date(2026, 11, 3), "The cloves are in"),
    DrawnPhoto("Bed 1", "garlic", date(2027, 1, 19), "Green in winter"),
    DrawnPhoto("Bed 1", "garlic", date(2027, 3, 9), "Growing again"),
    DrawnPhoto("Bed 1", "garlic", date(2027, 4, 12), "Knee high"),
    DrawnPhoto("Bed 3", "winter-wheat", date(2026, 11, 10), "Wheat is up"),
    DrawnPhoto("Bed 3", "winter-wheat", date(2027, 4, 12), "Thick as a lawn"),
)


def write(connection: Connection[Any], school: str) -> None:
    """Draw the photos of a school's demo and keep them as if a phone had sent them."""
    context = contexts.load(connection)
    beds = {bed.name: bed for bed in garden.beds(connection)}
    for number, scene in enumerate(SCENES):
        bed = beds[scene.bed]
        planting = _planted(connection, bed, scene)
        made = photo_format.made_small(_drawn(context, planting, scene.day, seed=bed.ordinal), "drawn.jpg")
        post = viewpoints.ensure(connection, context.school.id, demo_id(school, "viewpoint", bed.name), bed.id, POST)
        caption = f"{scene.words} (drawn for the demo)"
        row = Photo(
            demo_id(school, "photo", number),
            bed.id,
            planting.id,
            scene.day,
            caption,
            made.width,
            made.height,
            "",
            "",
            viewpoint_id=post,
        )
        at = datetime.combine(scene.day, time(15), UTC)
        photos.save(connection, context.school.id, row, picture=made.picture, small=made.small, by=None, at=at)


def _planted(connection: Connection[Any], bed: Bed, scene: DrawnPhoto) -> Planting:
    every = garden.plantings(connection, bed_id=bed.id, since=scene.day, until=scene.day)
    return next(p for p in every if p.crop == scene.crop and "started" in p.events)


def _drawn(context: Context, planting: Planting, day: date, *, seed: int) -> bytes:
    """The scene as a JPEG: sky, hedge, three rows of plants in their soil, and the board in front."""
    image = Image.new("RGB", (WIDTH * TWICE, HEIGHT * TWICE), "#dfe9ee")
    pen = ImageDraw.Draw(image)
    _box(pen, 0, 0, WIDTH, 250, "#cfe0ea")
    for step in range(0, WIDTH + 60, 60):
        rise = 26 * math.sin(step * 0.7 + seed)
        _oval(pen, step, 250 + rise / 3, 62, 58 + abs(rise), "#7f9c83" if day.month in (11, 12, 1, 2) else "#6f9a62")
    _box(pen, 0, 300, WIDTH, HEIGHT, "#b7a184")
    _box(pen, 0, 400, WIDTH, HEIGHT, "#8b6f57")
    crop = context.crops[planting.crop]
    traits = portraits()[planting.crop]
    assert planting.dates is not None
    grown = share_grown(day, planting.dates)
    stage: Stage | None = stage_at(grown, ripe=day >= planting.dates.first_pick, fruits=crop.part in FRUITS)
    for row, (ground, size) in enumerate(ROWS):
        if stage is None:
            continue
        for place in range(9 - row * 2):
            made = portrait(
                traits, stage, "side", height_mm=crop.height_mm, width_mm=crop.width_mm, number=(place + row) % 3
            )
            high = 250 * size * max(grown, 0.12) * min(1.0, crop.height_mm / 700)
            scale = high / max(made.measures.height, 1.0)
            x = WIDTH * (place + 0.5 + 0.12 * math.sin(place * 3 + row)) / (9 - row * 2)
            shown = [one for one in (*made.elements, *made.front) if _over_ground(one)]
            for one in shown:
                paint(pen, one, _placing(x, ground, scale * TWICE), scale * TWICE)
    _box(pen, 0, HEIGHT - 44, WIDTH, HEIGHT, "#a87f5a")
    _box(pen, 0, HEIGHT - 46, WIDTH, HEIGHT - 42, COLOURS[INK])
    _box(pen, 22, 330, 66, HEIGHT, "#8d6040")
    out = io.BytesIO()
    image.resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS).save(out, "JPEG", quality=88)
    return out.getvalue()


def _placing(x: float, ground: float, scale: float) -> Callable[[complex], tuple[float, float]]:
    """Where a plant's points lie that leaves the ground there."""
    return lambda point: (x * TWICE + point.real * scale, ground * TWICE - point.imag * scale)


def _over_ground(one: Element) -> bool:
    points = [one.middle] if isinstance(one, Disc) else list(one.points)
    return max(point.imag for point in points) > 0 and one.colour not in ("soil", "deep soil")


def _box(pen: ImageDraw.ImageDraw, left: float, top: float, right: float, bottom: float, colour: str) -> None:
    pen.rectangle([left * TWICE, top * TWICE, right * TWICE, bottom * TWICE], fill=colour)


def _oval(pen: ImageDraw.ImageDraw, x: float, y: float, across: float, high: float, colour: str) -> None:
    pen.ellipse([(x - across) * TWICE, (y - high) * TWICE, (x + across) * TWICE, (y + high) * TWICE], fill=colour)
