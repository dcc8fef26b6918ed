"""The garden's map as an SVG drawing in millimetres: opens at true scale, one group to a thing."""

from collections.abc import Iterable
from xml.etree.ElementTree import Element, SubElement, tostring

from almanaque.core.outline import Shape
from almanaque.core.site import KINDS, Frame, Thing

SVG = "http://www.w3.org/2000/svg"


def write(frame: Frame, things: Iterable[Thing]) -> bytes:
    """The drawing of what stands on a site; a user unit is a millimetre."""
    root = Element("svg", {
        "xmlns": SVG, "width": f"{frame.width_mm:g}mm", "height": f"{frame.depth_mm:g}mm", "viewBox": f"0 0 {frame.width_mm:g} {frame.depth_mm:g}",
    })  # fmt: skip
    SubElement(root, "title").text = frame.name
    SubElement(root, "rect", {"width": f"{frame.width_mm:g}", "height": f"{frame.depth_mm:g}", "fill": "#eaf0e5"})
    for thing in sorted(things, key=lambda thing: thing.what == "bed"):
        shape = thing.shape
        group = _group(root, shape, thing.name, f"{thing.what} {thing.kind}")
        if thing.what == "bed":
            SubElement(group, "path", {"d": _path(shape), "fill": "#f8ecd4", "stroke": "#8a6d4f"})
            SubElement(group, "text", {"x": "60", "y": "160", "font-size": "140"}).text = thing.name
        elif KINDS[thing.kind].round:
            rx, ry = f"{shape.length_mm / 2:g}", f"{shape.width_mm / 2:g}"
            SubElement(
                group, "ellipse", {"cx": rx, "cy": ry, "rx": rx, "ry": ry, "fill": "#b7cba9", "stroke": "#55635c"}
            )
        else:
            SubElement(group, "path", {"d": _path(shape), "fill": "#dcdfda", "stroke": "#55635c"})
    body: bytes = tostring(root, encoding="utf-8")
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + body


def _group(root: Element, shape: Shape, name: str, kind: str) -> Element:
    turn = f" rotate({shape.turn_deg:g} {shape.length_mm / 2:g} {shape.width_mm / 2:g})" if shape.turn_deg else ""
    place = f"translate({shape.x_mm:g} {shape.y_mm:g}){turn}"
    group = SubElement(root, "g", {"transform": place, "stroke-width": "20", "data-kind": kind})
    SubElement(group, "title").text = name
    return group


def _path(shape: Shape) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in shape.own_corners_mm) + "Z"
