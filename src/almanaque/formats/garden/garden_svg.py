"""The garden's map as an SVG drawing in millimetres: opens at true scale, one group to a thing, and can be read back.

A group of ours carries its thing as JSON in `data-thing`. Of other drawings rectangles and polygons are read, a user unit being a
millimetre, under the name in their title or id.
"""

import json
from collections.abc import Iterable
from xml.etree.ElementTree import Element, ParseError, SubElement, fromstring, tostring

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, SiteFrame, Thing
from almanaque.formats.garden import garden_things
from almanaque.formats.garden.garden_things import MOST_BYTES, MOST_THINGS

SVG = "http://www.w3.org/2000/svg"


def write(frame: SiteFrame, things: Iterable[Thing]) -> bytes:
    """The drawing of what stands on a site; a user unit is a millimetre."""
    root = Element(
        "svg",
        {
            "xmlns": SVG,
            "width": f"{frame.width_mm:g}mm",
            "height": f"{frame.depth_mm:g}mm",
            "viewBox": f"0 0 {frame.width_mm:g} {frame.depth_mm:g}",
        },
    )
    SubElement(root, "title").text = frame.name
    SubElement(root, "rect", {"width": f"{frame.width_mm:g}", "height": f"{frame.depth_mm:g}", "fill": "#eaf0e5"})
    for thing in sorted(things, key=lambda thing: thing.what == "bed"):
        shape = thing.shape
        group = _group(root, thing)
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


def _group(root: Element, thing: Thing) -> Element:
    shape = thing.shape
    turn = f" rotate({shape.turn_deg:g} {shape.length_mm / 2:g} {shape.width_mm / 2:g})" if shape.turn_deg else ""
    said = json.dumps({"id": str(thing.id), **garden_things.properties(thing)}, ensure_ascii=False)
    place = f"translate({shape.x_mm:g} {shape.y_mm:g}){turn}"
    group = SubElement(root, "g", {"transform": place, "stroke-width": "20", "data-thing": said})
    SubElement(group, "title").text = thing.name
    return group


def read(body: bytes, name: str) -> list[Thing]:
    """Beds and features of a drawing. Raises BadInput for what is no SVG, holds nothing to read, or holds too much."""
    if len(body) > MOST_BYTES:
        raise BadInput("garden.drawing_too_large", field="file", name=name, most_megabytes=MOST_BYTES // 1000000)
    try:
        # Entities could make a small file large; a drawing needs none, and one that has any is refused.
        root = None if b"<!DOCTYPE" in body or b"<!ENTITY" in body else fromstring(body.decode("utf-8-sig"))  # noqa: S314
    except (ParseError, UnicodeDecodeError, ValueError):
        root = None
    if root is None or root.tag != f"{{{SVG}}}svg":
        raise BadInput("garden.not_svg", field="file", name=name)
    groups = [element for element in root.iter() if "data-thing" in element.attrib]
    if groups:
        things = [_own(element, number) for number, element in enumerate(groups, start=1)]
    else:
        drawn = [element for element in root if element.tag in (f"{{{SVG}}}rect", f"{{{SVG}}}polygon")]
        things = [_foreign(element, number) for number, element in enumerate(drawn, start=1)]
    if not things:
        raise BadInput("garden.svg_without_things", field="file", name=name)
    if len(things) > MOST_THINGS:
        raise BadInput("garden.too_many_things", field="file", name=name, count=len(things), most=MOST_THINGS)
    return things


def _own(element: Element, number: int) -> Thing:
    try:
        given = json.loads(element.attrib["data-thing"])
    except (ValueError, RecursionError):
        given = None
    label = garden_things.label_of(given if isinstance(given, dict) else {}, number)
    shape = garden_things.local_shape(given, label) if isinstance(given, dict) else None
    if given is None or shape is None:
        raise BadInput("garden.svg_thing_unreadable", field="file", label=label)
    return garden_things.thing_of(given, given.get("id"), label, shape)


def _foreign(element: Element, number: int) -> Thing:
    """A rectangle or polygon of another program, as a thing of no special kind."""
    title = element.findtext(f"{{{SVG}}}title") or element.get("id") or ""
    label = garden_things.label_of({"name": " ".join(title.split())}, number)
    if element.get("transform"):
        raise BadInput("garden.svg_thing_transformed", field="file", label=label)
    if element.tag.endswith("rect"):
        x, y, w, h = (_figure(element.get(key, "0"), label) for key in ("x", "y", "width", "height"))
        points = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    else:
        figures = [_figure(word, label) for word in element.get("points", "").replace(",", " ").split()]
        points = list(zip(figures[::2], figures[1::2], strict=False))
    if len(points) < 3:
        raise BadInput("garden.no_outline", field="file", label=label)
    return garden_things.thing_of(
        {"kind": "other"}, element.get("id"), label, garden_things.outline_shape(points, label)
    )


def _figure(text: str, label: str) -> float:
    try:
        value: float | None = float(text.strip().removesuffix("mm"))
    except ValueError:
        value = None
    return garden_things.number(value, label, f"“{text[:20]}”")


def _path(shape: Shape) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in shape.own_corners_mm) + "Z"
