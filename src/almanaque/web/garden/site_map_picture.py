"""The site at true scale: beds where they lie, what stands around them, how full each bed is, how much sun it gets.

All values are pixels but those named `_mm`, which the page needs to move things.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from almanaque.commands.garden.sunlight import SunlitGround
from almanaque.core.garden.bed import MOVABLE_POTS, Cell
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, Feature
from almanaque.core.units import Units, format_length
from almanaque.store.garden.garden import Bed, Site
from almanaque.store.garden.site_features import FeatureRow
from almanaque.web.garden import map_labels
from almanaque.web.garden.map_labels import LETTER, Box, LabelPlace, NamedThing
from almanaque.web.pictures.plants_standing import StandingPlant

WIDEST, HIGHEST = 800.0, 540.0
TALL_KINDS = ("building", "wall", "shade roof", "tree")  # their height stands on the map
SMALL = ("gate", "tap", "pole", "rain barrel", "trellis", "fence", "bench", "wall")  # they carry their name beside them
BED_LETTERS_PX, FEATURE_LETTERS_PX = 25.0, 21.0  # of names on a phone, as the style has them
DESK_LETTERS_PX = 13.0
MOST_SUN_H = 9  # the tint's last step; more hours look the same


@dataclass(frozen=True)
class Lie:
    """Where a shape lies: as the browser draws it, and as the form sends it."""

    transform: str
    path: str
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    turn_deg: float
    corners: str


@dataclass(frozen=True)
class FeatureShape:
    id: str
    kind: str
    name: str
    words: str
    lie: Lie
    high: str
    round: bool
    rx: float
    ry: float
    css: str
    label: LabelPlace
    over: bool = False
    hose_mm: float = 0.0


@dataclass(frozen=True)
class Crown:
    """A tree or bush that is a planting, at its grown width."""

    x: float
    y: float
    r: float
    code: str


@dataclass(frozen=True)
class FillShape:
    """A square in its family's hatch, or tinted by its hours of sun (`tint` from 0 to 9)."""

    x: float
    y: float
    width: float
    height: float
    fill: str = ""
    tint: int = 0
    code: str = ""
    code_x: float = 0.0
    code_y: float = 0.0


@dataclass(frozen=True)
class LookShape:
    """A plant as it looks from above: where its middle is, its picture, the side and the corner of that."""

    x: float
    y: float
    side: float
    corner: float
    href: str
    turn: int


@dataclass(frozen=True)
class ProposedShape:
    """Something that is proposed, as one thing that is taken with a hand: its squares, and what a voice reads."""

    key: str
    words: str
    fills: list[FillShape]


@dataclass(frozen=True)
class BedShape:
    """A bed; `pitch_x` and `pitch_y` are the sides of its squares as drawn."""

    id: str
    name: str
    purpose: str
    words: str
    kind: str
    lie: Lie
    fills: list[FillShape]
    lines: str
    short: str
    label: LabelPlace
    pitch_x: float
    pitch_y: float
    proposed: list[ProposedShape] = field(default_factory=list)
    looks: list[LookShape] = field(default_factory=list)


@dataclass(frozen=True)
class Proposed:
    """Something that is proposed in squares of a bed: its key, what a voice reads, its hatch and code."""

    key: str
    words: str
    fill: str
    code: str
    cells: frozenset[Cell]


@dataclass(frozen=True)
class SiteMap:
    id: str
    name: str
    width: float
    height: float
    scale: float
    beds: list[BedShape]
    features: list[FeatureShape]
    ground: list[FillShape]
    bar: float
    bar_label: str
    north_deg: float
    units: Units
    legend: list[tuple[int, str]] = field(default_factory=list)
    crowns: list[Crown] = field(default_factory=list)


def draw(
    site: Site,
    beds: Sequence[Bed],
    features: Sequence[FeatureRow],
    *,
    units: Units,
    words: Mapping[str, str],
    short: Mapping[str, str],
    planted: Mapping[str, Mapping[Cell, tuple[str, str]]],
    sun: Mapping[str, Mapping[Cell, float]] | None = None,
    ground: SunlitGround | None = None,
    crowns: Sequence[tuple[float, float, float, str]] = (),
    proposed: Mapping[str, Sequence[Proposed]] | None = None,
    looks: Mapping[str, Sequence[StandingPlant]] | None = None,
) -> SiteMap:
    """Draw a site.

    By bed id, `words` says what a voice reads, `short` what stands under its name, `planted` the fill and code of its taken
    squares, `sun` the hours of its squares; `ground` tints the site itself. `crowns` are planted trees and bushes: place and
    radius [mm], and code. `proposed` are things that can be taken and put elsewhere,
    `looks` plants that are drawn as they look.
    """
    scale = min(WIDEST / site.width_mm, HIGHEST / site.depth_mm)
    bar_mm = 20 * 304.8 if units == "us" else 5000.0
    while bar_mm > site.width_mm / 2:
        bar_mm /= 2
    here = [bed for bed in beds if bed.site_id == site.id]
    things = [row for row in features if row.site_id == site.id]
    named = [_named_bed(bed, short[str(bed.id)], scale) for bed in here]
    named += [_named_feature(row, scale, units) for row in things]
    labels = map_labels.place(named, site.width_mm * scale, site.depth_mm * scale)
    return SiteMap(
        id=str(site.id),
        name=site.name,
        width=_px(site.width_mm * scale),
        height=_px(site.depth_mm * scale),
        scale=scale,
        beds=[
            _bed(
                bed,
                scale,
                label,
                words[str(bed.id)],
                short[str(bed.id)],
                planted.get(str(bed.id), {}),
                (sun or {}).get(str(bed.id), {}),
                (proposed or {}).get(str(bed.id), ()),
                (looks or {}).get(str(bed.id), ()),
            )
            for bed, label in zip(here, labels, strict=False)
        ],
        features=[_feature(row, scale, units, label) for row, label in zip(things, labels[len(here) :], strict=True)],
        ground=_tints(ground, scale) if ground else [],
        bar=_px(bar_mm * scale),
        bar_label=format_length(bar_mm, units),
        north_deg=site.north_deg,
        units=units,
        legend=[(step, f"{step}{'+' if step == MOST_SUN_H else ''} h") for step in (0, 2, 4, 6, 8)]
        if sun is not None
        else [],
        crowns=[Crown(_px(x * scale), _px(y * scale), _px(r * scale), code) for x, y, r, code in crowns],
    )


def tint(hours: float) -> int:
    """The step of the tint: whole hours, and one for nine and more."""
    return max(0, min(MOST_SUN_H, int(hours + 1e-9)))


def lie(shape: Shape, scale: float) -> Lie:
    """A shape in the map's pixels."""
    path = "M" + "L".join(f"{_px(x * scale)} {_px(y * scale)}" for x, y in shape.own_corners_mm) + "Z"
    turned = (
        f" rotate({shape.turn_deg:g} {_px(shape.length_mm / 2 * scale)} {_px(shape.width_mm / 2 * scale)})"
        if shape.turn_deg
        else ""
    )
    return Lie(
        f"translate({_px(shape.x_mm * scale)} {_px(shape.y_mm * scale)}){turned}",
        path,
        round(shape.x_mm, 4),
        round(shape.y_mm, 4),
        round(shape.length_mm, 4),
        round(shape.width_mm, 4),
        shape.turn_deg,
        ";".join(f"{x:.4f},{y:.4f}" for x, y in shape.corners_mm),
    )


def _body(shape: Shape, scale: float) -> Box:
    xs, ys = [x * scale for x, _ in shape.on_site_mm], [y * scale for _, y in shape.on_site_mm]
    return min(xs), min(ys), max(xs), max(ys)


def _named_bed(bed: Bed, short: str, scale: float) -> NamedThing:
    at_a_desk = f"{bed.name} {short}" if bed.kind not in MOVABLE_POTS else bed.name
    width = LETTER * max(BED_LETTERS_PX * len(bed.name), DESK_LETTERS_PX * len(at_a_desk))
    return NamedThing(_body(bed.shape, scale), width, BED_LETTERS_PX, inside=False)


def _named_feature(row: FeatureRow, scale: float, units: Units) -> NamedThing:
    name, high = _names(row, units)
    width = LETTER * max(FEATURE_LETTERS_PX * len(name), DESK_LETTERS_PX * len(name + high))
    return NamedThing(_body(row.feature.shape, scale), width, FEATURE_LETTERS_PX, inside=row.feature.kind not in SMALL)


def _names(row: FeatureRow, units: Units) -> tuple[str, str]:
    """What the map says of a thing: its name, and the height of what casts a wide shade. A path says nothing."""
    thing = row.feature
    if thing.kind == "path":
        return "", ""
    return thing.name, _height(thing, units) if thing.kind in TALL_KINDS else ""


def _height(thing: Feature, units: Units) -> str:
    return f", {format_length(thing.height_mm, units)} high" if thing.height_mm else ""


def _feature(row: FeatureRow, scale: float, units: Units, label: LabelPlace) -> FeatureShape:
    thing = row.feature
    name, shown_height = _names(row, units)
    size = f"{format_length(thing.shape.length_mm, units)} × {format_length(thing.shape.width_mm, units)}"
    return FeatureShape(
        str(row.id),
        thing.kind,
        name,
        f"{thing.name}: {KINDS[thing.kind].words}, {size}{_height(thing, units)}",
        lie(thing.shape, scale),
        shown_height,
        thing.round,
        _px(thing.shape.length_mm / 2 * scale),
        _px(thing.shape.width_mm / 2 * scale),
        thing.kind.replace(" ", "-"),
        _at(label),
        KINDS[thing.kind].over_bed,
        (thing.hose_mm or 0.0) if thing.kind in ("tap", "rain barrel") else 0.0,
    )


def _at(label: LabelPlace) -> LabelPlace:
    return LabelPlace(_px(label.x), _px(label.y), label.anchor)


def _tints(ground: SunlitGround, scale: float) -> list[FillShape]:
    side = ground.side_mm * scale
    return [
        FillShape(_px(c * side), _px(r * side), _px(side + 0.3), _px(side + 0.3), tint=tint(float(hours)))
        for r, row in enumerate(ground.hours)
        for c, hours in enumerate(row)
    ]


def _bed(
    bed: Bed,
    scale: float,
    label: LabelPlace,
    words: str,
    short: str,
    planted: Mapping[Cell, tuple[str, str]],
    sun: Mapping[Cell, float],
    proposed: Sequence[Proposed],
    looks: Sequence[StandingPlant],
) -> BedShape:
    grid = bed.grid()

    def fill(cell: Cell, hatch: str = "", hours: float = 0.0, code: str = "") -> FillShape:
        c, r = cell
        x, y, w, h = (
            c * grid.pitch_x_mm * scale,
            r * grid.pitch_y_mm * scale,
            grid.pitch_x_mm * scale,
            grid.pitch_y_mm * scale,
        )
        return FillShape(_px(x), _px(y), _px(w), _px(h), hatch, tint(hours), code, _px(x + w / 2), _px(y + h / 2 + 4))

    fills = [fill(cell, hours=hours) for cell, hours in sun.items()]
    fills += [fill(cell, hatch, code=code) for cell, (hatch, code) in planted.items()]
    inner = [
        cell for cell in ((c, r) for r in range(grid.rows) for c in range(grid.columns)) if cell not in grid.outside
    ]
    lines = "".join(
        f"M{_px(c * grid.pitch_x_mm * scale)} {_px(r * grid.pitch_y_mm * scale)}"
        f"h{_px(grid.pitch_x_mm * scale)}v{_px(grid.pitch_y_mm * scale)}"
        for c, r in inner
    )
    return BedShape(
        id=str(bed.id),
        name=bed.name,
        purpose=bed.purpose,
        words=words,
        kind=bed.kind.replace(" ", "-"),
        lie=lie(bed.shape, scale),
        fills=fills,
        lines=lines,
        short=short,
        label=_at(label),
        pitch_x=_px(grid.pitch_x_mm * scale),
        pitch_y=_px(grid.pitch_y_mm * scale),
        proposed=[
            ProposedShape(one.key, one.words, [fill(cell, one.fill, code=one.code) for cell in sorted(one.cells)])
            for one in proposed
        ],
        looks=[
            LookShape(
                _px(one.x_mm * scale),
                _px(one.y_mm * scale),
                _px(one.side_mm * scale),
                _px(-one.side_mm * scale / 2),
                one.href,
                one.turn,
            )
            for one in looks
        ],
    )


def _px(value: float) -> float:
    return round(value, 1)
