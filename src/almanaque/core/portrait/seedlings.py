"""Seeds at their true size, and seedlings at the size at which one decides whether to pull them."""

from almanaque.core.portrait import roots
from almanaque.core.portrait.leaves import HALVES, add_leaf, outline
from almanaque.core.portrait.pen import Disc, Element, Line, Outline, bounds, shifted
from almanaque.core.portrait.picture import PlantMeasures, Portrait
from almanaque.core.portrait.space import Place, Scene, View, arc
from almanaque.core.portrait.traits import PlantTraits, SeedTrait


def seedling(traits: PlantTraits, view: View, detail: int) -> Portrait:
    """Seed leaves and the first true leaf, at the size at which one decides whether to pull it."""
    own = traits.seed_leaf
    scene = Scene(view, detail)
    height = own.mm * (1.5 if own.form not in ("blade", "thread") else 1.0)
    first = traits.leaf.model_copy(
        update={
            "leaflets": 3 if traits.leaf.form == "pinnate" else traits.leaf.leaflets,
            "stalk": min(traits.leaf.stalk, 0.25),
            "margin": "smooth" if traits.leaf.margin == "ruffled" else traits.leaf.margin,
        }
    )
    if own.form in ("blade", "thread"):
        for azimuth, elevation, length in ((25.0, 76.0, 1.0), (190.0, 62.0, 0.62)):
            blade = traits.leaf.model_copy(update={"stalk": 0.0})
            add_leaf(scene, Place(0, 0, 0), azimuth, elevation, own.mm * length * 1.2, blade, droop=30, shade=0.4)
    elif own.below:
        scene.add(-9, Line((0j, scene.see(Place(own.mm * 0.05, 0, height * 1.2))[0]), own.stem, own.mm * 0.1))
        for share, azimuth in ((0.55, 20.0), (0.85, 165.0), (1.2, 60.0)):
            add_leaf(
                scene,
                Place(0, 0, height * share),
                azimuth,
                42,
                own.mm * 0.95,
                first,
                droop=20,
                shade=share - 0.6,
                stem=own.stem,
            )
    else:
        stem = height * 0.62
        scene.add(-9, Line((0j, scene.see(Place(own.mm * 0.03, 0, stem))[0]), own.stem, own.mm * 0.11))
        for azimuth in (4.0, 184.0):
            _seed_leaf(scene, traits, Place(0, 0, stem), azimuth)
        top = Place(own.mm * 0.03, 0, stem)
        leaf_length = own.mm * (0.95 if traits.leaf.form not in ("fern", "thread") else 1.25)
        add_leaf(scene, top, 262, 84, leaf_length, first, droop=-4, shade=0.2, stem=own.stem, nearer=own.mm)
    drawn: list[Element] = list(scene.in_order())
    left, _, right, top_y = bounds(drawn)
    measures = PlantMeasures(top_y if view == "side" else height, right - left)
    depth = 0.0
    if view == "side":
        depth = max(top_y, right - left) * 0.42
        root = Line((0j, complex(own.mm * 0.03, -depth * 0.45), complex(0, -depth * 0.9)), "cream", own.mm * 0.06)
        below: list[Element] = [root, *roots.root(roots.FIBROUS, depth * 0.7, detail, 1.0)]
        if own.below or own.form == "blade":
            below += [shifted(one, -depth * 0.4j) for one in seed(traits.seed, 0)]
        drawn = [*roots.soil((right - left) * 0.9, depth), *below, *drawn]
    return Portrait(tuple(drawn), PlantMeasures(measures.height, measures.width, depth), view, view == "side", detail)


def _seed_leaf(scene: Scene, traits: PlantTraits, base: Place, azimuth: float) -> None:
    own = traits.seed_leaf
    path = arc(base, azimuth, 26 if own.form != "needle" else 34, own.mm, 16)
    midrib = [scene.see(place)[0] for place in path]
    ratio = {
        "oval": 0.55,
        "round": 0.9,
        "heart": 1.0,
        "lance": 0.3,
        "needle": 0.12,
        "spoon": 0.55,
        "square": 0.95,
        "kidney": 1.2,
    }[own.form]
    form = {"heart": "notched", "kidney": "kidney"}.get(own.form, own.form)
    width = own.mm * ratio * (0.8 if scene.view == "side" else 1.0)
    leaf = outline(midrib, width, form if form in HALVES else "oval", "smooth", scene.detail, own.colour)
    rib = (midrib[0], midrib[2])
    scene.add(scene.see(path[2])[1], leaf, Line(rib, "cream green", width * 0.05, vein=True))


SEED_SHAPES: dict[str, tuple[tuple[float, float], ...]] = {
    "oval": ((0, -1), (0.5, -0.6), (0.62, 0), (0.5, 0.6), (0, 1), (-0.5, 0.6), (-0.62, 0), (-0.5, -0.6)),
    "flat": ((0, -1), (0.62, -0.5), (0.72, 0.2), (0.4, 0.8), (0, 1), (-0.4, 0.8), (-0.72, 0.2), (-0.62, -0.5)),
    "long": ((0, -1), (0.22, -0.5), (0.26, 0.2), (0.14, 0.8), (0, 1), (-0.14, 0.8), (-0.26, 0.2), (-0.22, -0.5)),
    "kidney": (
        (-0.15, -1),
        (0.4, -0.8),
        (0.66, -0.1),
        (0.45, 0.7),
        (-0.1, 1),
        (-0.5, 0.75),
        (-0.42, 0.3),
        (-0.28, 0),
        (-0.42, -0.35),
        (-0.52, -0.75),
    ),
    "wedge": ((0, -1), (0.34, -0.5), (0.72, 0.5), (0.5, 0.95), (0, 0.86), (-0.5, 0.95), (-0.72, 0.5), (-0.34, -0.5)),
    "drop": ((0, 1), (0.3, 0.5), (0.66, -0.2), (0.5, -0.85), (0, -1), (-0.5, -0.85), (-0.66, -0.2), (-0.3, 0.5)),
    "ridged": ((0, -1), (0.36, -0.6), (0.44, 0), (0.34, 0.6), (0, 1), (-0.34, 0.6), (-0.44, 0), (-0.36, -0.6)),
    "winged": ((0, -1), (0.7, -0.7), (0.95, 0), (0.7, 0.7), (0, 1), (-0.7, 0.7), (-0.95, 0), (-0.7, -0.7)),
    "clove": ((0, 1), (0.2, 0.5), (0.6, -0.2), (0.5, -0.85), (0, -1), (-0.5, -0.85), (-0.6, -0.2), (-0.2, 0.5)),
    "tuber": ((0, -0.8), (0.6, -0.7), (1, -0.1), (0.75, 0.55), (0.1, 0.75), (-0.6, 0.65), (-1, 0.05), (-0.7, -0.6)),
    "bulb": ((0, 1), (0.16, 0.6), (0.66, 0), (0.6, -0.7), (0, -1), (-0.6, -0.7), (-0.66, 0), (-0.16, 0.6)),
    "cane": ((-0.14, -1), (0.14, -1), (0.12, 0), (0.14, 0.96), (0, 1), (-0.14, 0.96), (-0.12, 0), (-0.14, -1)),
    "crown": ((0, 0.5), (0.5, 0.4), (0.66, 0), (0.3, -0.35), (0, -0.45), (-0.3, -0.35), (-0.66, 0), (-0.5, 0.4)),
}


def seed(seed: SeedTrait, detail: int) -> list[Element]:
    """A seed, or what is set, at its true size around the origin."""
    r = seed.mm / 2
    if seed.form == "round":
        return [Disc(0j, r, r, seed.colour), Disc(complex(r * 0.3, r * 0.3), r * 0.16, r * 0.12, "cream", bare=True)]
    points = [complex(x * r, y * r) for x, y in SEED_SHAPES[seed.form]]
    corners = {"long": (0, 4, 8), "drop": (0, 8), "clove": (0, 8), "bulb": (0, 8), "winged": (), "ridged": (0, 4, 8)}
    found: list[Element] = [Outline((*points, points[0]), seed.colour, corners=corners.get(seed.form, ()))]
    lines = {
        "ridged": ((-0.18, 0.7, -0.2, -0.7), (0.16, 0.7, 0.18, -0.7)),
        "long": ((0, 0.7, 0, -0.7),),
        "clove": ((-0.15, 0.5, -0.28, -0.7), (0.2, 0.4, 0.24, -0.7)),
        "bulb": ((-0.1, 0.6, -0.3, -0.8), (0.1, 0.6, 0.3, -0.8)),
        "kidney": ((-0.3, 0.2, -0.26, -0.15),),
        "flat": ((0, 0.6, 0, -0.6),),
    }
    for x0, y0, x1, y1 in lines.get(seed.form, ()):
        found.append(Line((complex(x0, y0) * r, complex(x1, y1) * r), "dark", r * 0.05, vein=True))
    if seed.form == "tuber":
        found += [
            Disc(complex(x, y) * r, r * 0.07, r * 0.05, "dark", bare=True)
            for x, y in ((-0.5, 0.2), (0.2, -0.3), (0.6, 0.25))
        ]
    if seed.form == "wedge":
        found.append(
            Outline(
                tuple(complex(x, y) * r * 0.5 for x, y in ((0, -1), (0.5, 0.2), (0, 0.9), (-0.5, 0.2), (0, -1))),
                "butter",
                bare=True,
            )
        )
    if seed.form == "crown":
        found = [*(Line((-0.2j * r, complex(x * r, -r)), "brown", r * 0.05) for x in (-0.7, -0.3, 0.1, 0.5)), *found]
    return found
