"""The site at true scale: beds where they lie, what stands around them, how full each bed is. All values in pixels."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from almanaque.core.bed import Cell
from almanaque.core.units import Units, format_length
from almanaque.store.garden import Bed, Feature, Site

WIDEST, HIGHEST = 800.0, 540.0
LABEL_INSIDE = ("building", "tree", "path")  # the others are too small and carry their name above


@dataclass(frozen=True)
class FeatureShape:
    kind: str
    name: str
    x: float
    y: float
    width: float
    height: float
    label_x: float
    label_y: float


@dataclass(frozen=True)
class FillShape:
    """A square in which something stands, in its family's hatch."""

    x: float
    y: float
    width: float
    height: float
    fill: str


@dataclass(frozen=True)
class BedShape:
    id: str
    name: str
    purpose: str
    words: str
    kind: str
    x: float
    y: float
    width: float
    height: float
    fills: list[FillShape]
    lines: str


@dataclass(frozen=True)
class SiteMap:
    width: float
    height: float
    beds: list[BedShape]
    features: list[FeatureShape]
    bar: float
    bar_label: str


def draw(
    site: Site,
    beds: Sequence[Bed],
    features: Sequence[Feature],
    *,
    units: Units,
    words: Mapping[str, str],
    planted: Mapping[str, Mapping[Cell, str]],
) -> SiteMap:
    """Draw a site; by bed id, `words` says what stands in each and `planted` the fill of its taken squares."""
    scale = min(WIDEST / site.width_mm, HIGHEST / site.depth_mm)

    def px(mm: float) -> float:
        return round(mm * scale, 1)

    bar_mm = 20 * 304.8 if units == "us" else 5000.0
    return SiteMap(
        width=px(site.width_mm),
        height=px(site.depth_mm),
        beds=[_bed(bed, px, words[str(bed.id)], planted[str(bed.id)]) for bed in beds if bed.site_id == site.id],
        features=[
            FeatureShape(
                f.kind, f.name, px(f.x_mm), px(f.y_mm), px(f.width_mm), px(f.depth_mm),
                px(f.x_mm + f.width_mm / 2), px(f.y_mm + f.depth_mm / 2) + 4 if f.kind in LABEL_INSIDE else px(f.y_mm) - 5,
            )
            for f in features
        ],
        bar=px(bar_mm),
        bar_label=format_length(bar_mm, units),
    )  # fmt: skip


def _bed(bed: Bed, px: Callable[[float], float], words: str, planted: Mapping[Cell, str]) -> BedShape:
    grid = bed.grid()
    x, y = px(bed.x_mm), px(bed.y_mm)
    lines = [
        f"M{px(bed.x_mm + n * grid.pitch_x_mm)} {y}v{px(bed.width_mm)}" for n in range(1, grid.columns)
    ] + [f"M{x} {px(bed.y_mm + n * grid.pitch_y_mm)}h{px(bed.length_mm)}" for n in range(1, grid.rows)]  # fmt: skip
    return BedShape(
        id=str(bed.id), name=bed.name, purpose=bed.purpose, words=words, kind=bed.kind, x=x, y=y,
        width=px(bed.length_mm), height=px(bed.width_mm),
        fills=[
            FillShape(px(bed.x_mm + c * grid.pitch_x_mm), px(bed.y_mm + r * grid.pitch_y_mm),
                      px(grid.pitch_x_mm), px(grid.pitch_y_mm), fill)
            for (c, r), fill in planted.items()
        ],
        lines="".join(lines),
    )  # fmt: skip
