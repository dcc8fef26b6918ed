"""A finished portrait with its measures, and as SVG."""

from dataclasses import dataclass
from typing import Literal

from almanaque.core.portrait.pen import Element, Form, Sheet, bounds, svg_body
from almanaque.core.portrait.space import View

Stage = Literal["seed", "seedling", "young", "grown", "flower", "unripe", "ripe", "gone to seed", "dead"]
BOX = 250.0  # units of a side of the paper
DETAIL_PX = (36, 96)  # sizes from which more is drawn: our own choice


@dataclass(frozen=True)
class PlantMeasures:
    """What a plant measures [mm] at a stage: over the ground, across, and below."""

    height: float
    width: float
    below: float = 0.0


@dataclass(frozen=True)
class Portrait:
    """Elements [mm] around where the plant leaves the ground; `ground` tells whether soil is drawn below,
    `front` are flowers and fruits, with a contour of their own before the leaves, `fine` whether its leaves are threads, which
    want a thin line."""

    elements: tuple[Element, ...]
    measures: PlantMeasures
    view: View
    ground: bool
    detail: int
    front: tuple[Element, ...] = ()
    fine: bool = False

    def sheet(self, size: float = BOX) -> Sheet:
        """Where it lies on a square paper of a side: filling it from the side; from above with the plant in its middle."""
        left, low, right, top = bounds((*self.elements, *self.front))
        margin = size * 0.04
        if self.view == "top":
            reach = max(-left, right, -low, top, 1e-6)
            return Sheet((size / 2 - margin) / reach, size / 2, size / 2)
        scale = (size - 2 * margin) / max(right - left, top - low, 1e-6)
        x = size / 2 - (left + right) / 2 * scale
        y = size - margin + low * scale if top - low >= right - left else size / 2 + (low + top) / 2 * scale
        return Sheet(scale, x, y)


def detail_of(size_px: float) -> int:
    """How much is drawn at a size: 0, 1 or 2."""
    return sum(size_px >= least for least in DETAIL_PX)


def svg(
    made: Portrait, *, size_px: float, form: Form = "colour", name: str = "", title: str = "", symbol: bool = False
) -> str:
    """A portrait as an SVG of its own, or as a `<symbol>` with this id; drawn on a paper of 250 by 250 units."""
    sheet = made.sheet()
    key = name or "plant"
    heavy = (6, 4, 3)[made.detail]
    inside = f"{key}-in" if symbol else key
    body = svg_body(
        made.elements, sheet, inside, form, heavy=heavy * (0.6 if made.fine else 1.0), plain=made.detail < 2
    )
    if made.front:
        body += svg_body(made.front, sheet, f"{inside}-front", form, heavy=heavy * 0.55, plain=made.detail < 2)
    if symbol:
        return f'<symbol id="{key}" viewBox="0 0 250 250">{body}</symbol>'
    words = f"<title>{title}</title>" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 250 250" width="{size_px:g}" height="{size_px:g}">'
        f"{words}{body}</svg>"
    )
