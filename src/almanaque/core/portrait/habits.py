"""How plants stand: each habit puts stems and leaves into space and says where flowers and fruits are."""

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field

from almanaque.core.portrait.leaves import add_leaf, tone_of
from almanaque.core.portrait.pen import Disc, Element, Line, Outline
from almanaque.core.portrait.space import GOLDEN_DEG, Place, Scene, arc, towards
from almanaque.core.portrait.traits import HabitForm, LeafTrait, PlantTraits

ORIGIN = Place(0.0, 0.0, 0.0)


@dataclass
class Grown:
    """A plant to be put into a scene: height and width [mm], how many of its leaves, how dry; chance turns what is alike."""

    traits: PlantTraits
    height: float
    width: float
    leaves: int
    scene: Scene
    chance: random.Random
    dry: float = 0.0
    flowers: list[Place] = field(default_factory=list)
    fruits: list[Place] = field(default_factory=list)

    @property
    def leaf(self) -> LeafTrait:
        return self.traits.leaf

    @property
    def stem(self) -> str:
        return "tan" if self.dry >= 1 else self.traits.habit.stem

    def turned(self, degrees: float = 14.0) -> float:
        return self.chance.uniform(-degrees, degrees)

    def put_leaf(self, base: Place, azimuth: float, elevation: float, length: float, **more: float) -> None:
        """A leaf; dry ones hang."""
        if self.dry >= 1:
            elevation, more["droop"] = elevation * 0.8, more.get("droop", 30.0) + 30
            length *= 0.8
        add_leaf(self.scene, base, azimuth, elevation, length, self.leaf, dry=self.dry, stem=self.stem, **more)

    def put_stem(self, places: list[Place], width: float, colour: str = "") -> None:
        seen = [self.scene.see(place) for place in places]
        near = sum(depth for _, depth in seen) / len(seen)
        self.scene.add(near - 0.5, Line(tuple(point for point, _ in seen), colour or self.stem, width))

    def around(self, number: int, share: float) -> float:
        """The azimuth of a leaf: by the golden angle from above; from the side left and right in turn, inner ones more to the eye."""
        if self.scene.view == "top":
            return number * GOLDEN_DEG + self.turned(8)
        angle = 12 + 66 * share + self.turned(8)
        if (number // 2) % 2 or share > 0.6:
            angle = -angle
        return 180 - angle if number % 2 else angle

    def shade_at(self, azimuth: float, share: float) -> float:
        """How near or light a leaf is drawn: by where it points from the side, by how high it stands from above."""
        if self.scene.view == "top":
            return 2 * share - 1
        return -math.sin(math.radians(azimuth))


def fan(p: Grown, *, low: float = 14.0, front: float = 0.66, droop: float = 26.0, spread: float = 1.0) -> list[Place]:
    """Leaves from one point: from above all around it, from the side a high row behind a low one. Returns where their tips are."""
    reach = max(p.width / 2, p.height * 0.45) * spread
    tips: list[Place] = []
    if p.scene.view == "top":
        for number in range(p.leaves):
            share = number / max(1, p.leaves - 1)
            azimuth = number * GOLDEN_DEG + p.turned(8)
            length = reach * (1.06 - 0.5 * share)
            p.put_leaf(ORIGIN, azimuth, 12 + 50 * share, length, droop=droop, shade=2 * share - 1)
            tips.append(towards(ORIGIN, azimuth, 20, length * 0.8))
        return tips
    back = max(3, math.ceil(p.leaves * 0.6))
    for row, number_of in ((0, back), (1, p.leaves - back)):
        for number in range(number_of):
            share = (number + 0.5) / number_of
            angle = low + 10 * row + (180 - 2 * low - 20 * row) * share + p.turned(4)
            upright = math.sin(math.radians(angle))
            length = (reach + (p.height * 1.04 - reach) * upright**2) * (front if row else 1.0)
            azimuth, elevation = (0.0, angle) if angle < 90 else (180.0, 180 - angle)
            base = Place(0, reach * (0.1 - 0.2 * row) - 0.01 * reach * upright * (1 - 2 * row), 0)
            bend = droop * (1.25 - upright)
            p.put_leaf(
                base, azimuth, elevation, length, droop=bend, shade=(-0.5 if number % 2 else 0.0) if row == 0 else 0.8
            )
            if row == 0:
                tips.append(towards(base, azimuth, elevation, length * 0.95))
    return tips


def rosette(p: Grown) -> None:
    """Leaves from one point at the ground."""
    fan(p)
    reach = p.width / 2
    p.fruits += [Place(x * reach, y * reach, p.height * z) for x, y, z in FRUITS_OF_ROSETTE]
    p.flowers += [Place(x * reach, y * reach, p.height * (0.35 + 1.3 * z)) for x, y, z in FRUITS_OF_ROSETTE]


# Where fruits lie around a rosette, in half widths and heights: our own drawing.
FRUITS_OF_ROSETTE = (
    (0.28, -0.6, 0.2),
    (-0.36, -0.6, 0.16),
    (0.02, -0.62, 0.34),
    (0.6, -0.5, 0.12),
    (-0.66, -0.4, 0.14),
)


def head(p: Grown) -> None:
    """Outer leaves around leaves that close over each other."""
    reach = p.width / 2
    hearted = p.traits.habit.hearted
    tall = p.height / max(1.0, p.width)
    whole, p.leaves = p.leaves, max(5, p.leaves * 2 // 3)
    fan(p, low=10.0, front=0.6, droop=-14.0, spread=1.0 if tall <= 0.95 else 0.9)
    outer, p.leaves = p.leaves, whole
    leaf = replace_leaf(p.leaf, stalk=0.0, ratio=max(0.8, p.leaf.ratio))
    if hearted and p.dry < 1:
        middle = Place(0, 0 if p.scene.view == "top" else -reach * 0.3, p.height * (0.42 if tall <= 0.95 else 0.52))
        point, near = p.scene.see(middle)
        across = reach * (0.58 if tall <= 0.95 else 0.5)
        high = across if p.scene.view == "top" or tall <= 0.95 else p.height * 0.46
        ball = Disc(point, across, high, tone_of(p.leaf, 0.6))
        folds: list[Element] = []
        for number, (a, b) in enumerate(((-0.75, 0.2), (0.7, 0.3), (-0.2, 0.75))):
            points = (
                point + complex(across * a, -high * 0.8 * b),
                point + complex(across * a * 0.2, high * (0.3 + 0.2 * number)),
                point + complex(across * -a * 0.5, high * 0.86),
            )
            folds.append(Line(points, p.leaf.rib, across * 0.06, vein=True))
        p.scene.add(near + reach * 0.2, ball, *folds[: p.scene.detail + 1])
    else:
        for number in range(max(2, p.leaves - outer)):
            azimuth = number * GOLDEN_DEG + 40
            add_leaf(p.scene, ORIGIN, azimuth, 62.0, p.height * 0.78, leaf, droop=-22.0, shade=0.7, dry=p.dry)
    p.fruits.append(Place(0, -reach * 0.1, p.height * 0.55))


def replace_leaf(leaf: LeafTrait, **more: float) -> LeafTrait:
    return leaf.model_copy(update=more)


def stem(p: Grown) -> None:
    """One stem, upright, leaves along it; side shoots where there are more stems."""
    habit = p.traits.habit
    lean = p.turned(3)
    top = Place(p.height * math.tan(math.radians(lean)), 0, p.height)
    thick = max(p.height * 0.022, p.width * 0.025)
    p.put_stem([ORIGIN, Place(top.x * 0.3 - thick * 0.4, 0, p.height * 0.5), top], thick)
    nodes = max(3, p.leaves if not habit.opposite else (p.leaves + 1) // 2)
    reach = p.width / 2
    low = 0.06 if p.height < p.width * 1.6 else 0.1
    for node in range(nodes):
        share = low + (1 - low) * node / nodes
        base = Place(top.x * share, 0, p.height * share)
        sides = (0.0, 180.0) if habit.opposite else (0.0,)
        turn = (
            (node % 2) * (90.0 if p.scene.view == "top" else 44.0) + 12
            if habit.opposite
            else p.around(node, 0.5 * share)
        )
        length = reach * (1.08 - 0.58 * share)
        for side in sides:
            azimuth = turn + side + p.turned(8)
            p.put_leaf(base, azimuth, 30 + 26 * share, length, droop=42 - 22 * share, shade=p.shade_at(azimuth, share))
        if share > 0.3:
            side = 1 if node % 2 else -1
            p.fruits.append(
                Place(base.x + side * reach * (0.42 - 0.2 * share), base.y - reach * 0.3, base.z - reach * 0.08)
            )
    for shoot in range(habit.stems - 1):
        share = 0.3 + 0.4 * shoot / max(1, habit.stems - 1)
        azimuth = shoot * GOLDEN_DEG + 30
        base = Place(top.x * share, 0, p.height * share)
        path = arc(base, azimuth, 62, p.height * 0.5 * (1.05 - share) + reach * 0.3, -14, 3)
        p.put_stem(path, thick * 0.6)
        p.put_leaf(path[1], azimuth + 80, 30, reach * 0.42, droop=30, shade=p.shade_at(azimuth, 0.7))
        p.put_leaf(path[2], azimuth - 80, 35, reach * 0.36, droop=30, shade=p.shade_at(azimuth, 0.8))
        p.flowers.append(path[-1])
    p.put_leaf(top, 250, 62, reach * 0.42, droop=10, shade=0.9)
    p.flowers.insert(0, top)


def bush(p: Grown) -> None:
    """Several stems from the ground, leaning apart, leaves along each and one at its end."""
    reach = p.width / 2
    stems = max(3, min(p.traits.habit.stems, (3, 3, 5)[p.scene.detail]))
    each = max(2, round(p.leaves / stems / (2 if p.traits.habit.opposite else 1)) - 1)
    top = p.scene.view == "top"
    order = sorted(range(stems), key=lambda k: -abs(k - (stems - 1) / 2))  # the middle one is nearest
    for turn, number in enumerate(order):
        if top:
            azimuth, lean, long = number * 360 / stems + p.turned(), 50.0, reach * 0.7
        else:
            angle = 66 + 48 * number / (stems - 1) + p.turned(4)
            azimuth, lean = (0.0, angle) if angle < 90 else (180.0, 180 - angle)
            long = p.height * (0.76 - 0.14 * abs(number - (stems - 1) / 2) * 2 / (stems - 1))
        depth = reach * 0.16 * (len(order) / 2 - turn)
        path = [Place(q.x, q.y + (0.0 if top else depth), q.z) for q in arc(ORIGIN, azimuth, lean, long, 6, 3)]
        p.put_stem(path, max(p.height * 0.014, 0.6))
        length = reach * 1.0
        for k in range(each):
            share = 0.2 + 0.72 * (k + 0.5) / each
            at = _on(path, share)
            side = 1 if (k + number) % 2 else -1
            sides = (1, -1) if p.traits.habit.opposite else (side,)
            for one in sides:
                if top:
                    way, rise = azimuth + one * (96 - 40 * share), 26.0
                else:
                    way, rise = (0.0, 26 + 22 * share) if one > 0 else (180.0, 26 + 22 * share)
                p.put_leaf(
                    at,
                    way + p.turned(8),
                    rise,
                    length * (1.06 - 0.3 * share),
                    droop=36,
                    shade=0.9 * share - 0.5 + 0.3 * (turn - 1),
                )
        ending = azimuth + p.turned(6)
        p.put_leaf(path[-1], ending, lean + 4, length * 0.72, droop=16, shade=0.7)
        p.flowers.append(path[-1])
        p.fruits.append(towards(_on(path, 0.5), azimuth, -20, reach * 0.2))
    for x, z in ((-0.5, 0.4), (0.5, 0.36), (0.1, 0.62), (-0.2, 0.2)):
        p.fruits.append(Place(x * reach, -reach * 0.4, z * p.height))


def _on(path: list[Place], share: float) -> Place:
    at = share * (len(path) - 1)
    number = min(int(at), len(path) - 2)
    a, b, part = path[number], path[number + 1], at - min(int(at), len(path) - 2)
    return Place(a.x + (b.x - a.x) * part, a.y + (b.y - a.y) * part, a.z + (b.z - a.z) * part)


def climber(p: Grown) -> None:
    """A thin stem that winds up a pole."""
    thick = max(p.height * 0.012, 0.8)
    if p.leaves > 4:
        p.put_stem([Place(0, p.width * 0.05, 0), Place(0, p.width * 0.05, p.height)], p.height * 0.016, "tan")
    nodes = max(4, p.leaves)
    swing = p.height * 0.03
    path = [ORIGIN]
    for node in range(nodes + 1):
        share = (node + 1) / (nodes + 1)
        path.append(Place(swing * (1 if node % 2 else -1) * min(1.0, 3 * share), -swing * 0.3, p.height * share * 0.97))
    p.put_stem(path, thick)
    for node in range(nodes):
        share = (node + 1) / (nodes + 1)
        azimuth = (0.0 if node % 2 else 180.0) + p.turned(34) - 20
        length = max(p.width * 0.56, p.height * 0.16) * (1.04 - 0.42 * share)
        p.put_leaf(path[node + 1], azimuth, 30, length, droop=34, shade=p.shade_at(azimuth, share))
        if node % 2 == 0 and share > 0.25:
            p.flowers.append(towards(path[node + 1], -70, 20, p.width * 0.16))
        if share > 0.2:
            side = 1 if node % 4 < 2 else -1
            p.fruits.append(Place(side * p.width * 0.2, -p.width * 0.4, p.height * (share - 0.06)))


def vine(p: Grown) -> None:
    """Runners over the ground with leaves on stalks."""
    reach = p.width / 2
    crowned = max(3, p.leaves // 3)
    for number in range(crowned):
        azimuth = number * GOLDEN_DEG + 60
        p.put_leaf(ORIGIN, azimuth, 58 - 6 * number, p.height * 0.95, droop=56, shade=p.shade_at(azimuth, 0.8))
    for way in (8.0, 172.0):
        path = [
            towards(ORIGIN, way + bend, 0, reach * share) for bend, share in ((0, 0), (14, 0.3), (-10, 0.62), (8, 0.9))
        ]
        path = [Place(q.x, q.y, p.height * 0.05) for q in path]
        p.put_stem(path, max(p.height * 0.035, 1.2))
        nodes = max(2, (p.leaves - crowned) // 2)
        for node in range(nodes):
            share = (node + 1) / (nodes + 0.4)
            base = _on(path, min(1.0, share))
            azimuth = way + (65 if node % 2 else -65)
            p.put_leaf(base, azimuth, 56, p.height * (0.8 - 0.3 * share), droop=52, shade=p.shade_at(azimuth, 0.5))
            if node % 2 == 0:
                p.flowers.append(Place(base.x, base.y - reach * 0.1, p.height * 0.3))
        p.fruits.append(Place(path[2].x * 0.86, -reach * 0.2, 0.0))


def grass(p: Grown) -> None:
    """Culms with blades in two ranks; tillers where there are more stems."""
    culms = p.traits.habit.stems
    thick = max(p.height * 0.011, 0.8) if culms == 1 else max(p.height * 0.008, 0.5)
    for culm in range(culms):
        azimuth = culm * GOLDEN_DEG
        lean = 90.0 if culms == 1 else 84 - 5 * (culm % 3)
        path = arc(ORIGIN, azimuth, lean, p.height * (1 if culm == 0 else 0.9), 4 if culms > 1 else 0, 3)
        p.put_stem(path, thick)
        blades = max(2, p.leaves // culms)
        for k in range(blades):
            share = 0.05 + 0.72 * k / blades
            side = 0.0 if (k + culm) % 2 else 180.0
            turn = side + azimuth * (0.2 if culms > 1 else 0) + p.turned(16)
            length = max(p.width * 0.62, p.height * 0.34) * (1 - 0.25 * share)
            p.put_leaf(_on(path, share), turn, 60, length, droop=78, shade=p.shade_at(turn + 30, share))
            if culm == 0 and 0.3 < share < 0.62:
                p.fruits.append(towards(_on(path, share), side + 180, 40, p.width * 0.05))
        p.flowers.append(path[-1])


def straps(p: Grown) -> None:
    """Long leaves in two ranks from a shaft."""
    shaft = p.height * 0.2
    thick = max(p.width * 0.09, p.height * 0.028)
    p.put_stem([ORIGIN, Place(0, 0, shaft)], thick, "cream green" if p.dry < 1 else "straw")
    for number in range(p.leaves):
        share = number / max(1, p.leaves - 1)
        side = 0.0 if number % 2 else 180.0
        azimuth = side + p.turned(22)
        elevation = 52 + 34 * share
        length = (p.height - shaft * 0.6) * (0.74 + 0.3 * share)
        base = Place(0, 0, shaft * (0.35 + 0.6 * share))
        p.put_leaf(base, azimuth, elevation, length, droop=34 - 24 * share, shade=p.shade_at(azimuth + 30, share))
    p.flowers.append(Place(p.width * 0.04, 0, p.height))
    p.fruits.append(Place(0, 0, 0))


def clump(p: Grown) -> None:
    """Many leaves or stalks from the ground, standing."""
    tips = fan(p, low=36.0, front=0.78, droop=20.0)
    p.flowers += [Place(tip.x, tip.y - p.width * 0.1, tip.z) for tip in tips[1::2] + tips[::2]]
    p.fruits += [Place(x * p.width, -p.width * 0.4, z * p.height) for x, z in ((0.16, 0.1), (-0.18, 0.08), (0.02, 0.2))]


def mat(p: Grown) -> None:
    """Low stems over the ground, thick with leaves."""
    reach = p.width / 2
    stems = max(5, min(p.traits.habit.stems, (5, 5, 8)[p.scene.detail]))
    for number in range(stems):
        azimuth = number * 360 / stems + p.turned(10)
        path = arc(ORIGIN, azimuth, 46 + 30 * (number % 2), max(reach * 0.6, p.height * 0.7), 40, 3)
        p.put_stem(path, max(p.height * 0.01, 0.3))
        each = max(2, p.leaves // stems // 2)
        for k in range(each):
            at = _on(path, 0.25 + 0.75 * k / each)
            for side in (64, -64):
                p.put_leaf(at, azimuth + side, 34, reach * 0.5, droop=20, shade=p.shade_at(azimuth + side, k / each))
        p.put_leaf(path[-1], azimuth, 40, reach * 0.42, droop=10, shade=0.8)
        p.flowers.append(path[-1])
        p.fruits.append(towards(path[2], azimuth, -30, reach * 0.1))


def canes(p: Grown) -> None:
    """Arching canes with leaves along them."""
    number = max(3, p.traits.habit.stems)
    for cane in range(number):
        azimuth = (0.0 if cane % 2 else 180.0) + p.turned(40)
        lean = 88 - 4 * cane
        path = arc(ORIGIN, azimuth, lean, p.height * (1.04 - 0.06 * cane), 10 + 6 * cane, 4)
        p.put_stem(path, max(p.height * 0.012, 1.0), "brown" if p.dry < 1 else "bark")
        each = max(3, p.leaves // number)
        for k in range(each):
            share = 0.22 + 0.78 * k / max(1, each - 1)
            turn = azimuth + (75 if k % 2 else -75)
            p.put_leaf(
                _on(path, share), turn, 26, max(p.width * 0.55, p.height * 0.4), droop=36, shade=p.shade_at(turn, share)
            )
            if k % 2:
                p.fruits.append(towards(_on(path, share), turn + 180, -20, p.width * 0.07))
        p.flowers.append(path[-1])


def shrub(p: Grown) -> None:
    """Woody stems from the ground under a crown."""
    number = max(3, p.traits.habit.stems)
    for branch in range(number):
        azimuth = branch * GOLDEN_DEG
        p.put_stem(arc(ORIGIN, azimuth, 68, p.height * 0.6, 6, 3), max(p.height * 0.02, 1.5), "bark")
    _crown(p, Place(0, 0, p.height * 0.56), p.width / 2, p.height * 0.44)


def tree(p: Grown) -> None:
    """A trunk and a crown."""
    crown = Place(0, 0, p.height * 0.64)
    p.put_stem([ORIGIN, Place(p.width * 0.01, 0, p.height * 0.25), crown], max(p.height * 0.035, 2.0), "bark")
    for azimuth in (15, 165):
        p.put_stem(arc(Place(0, 0, p.height * 0.34), azimuth, 48, p.height * 0.26, -10, 2), p.height * 0.018, "bark")
    _crown(p, crown, p.width / 2, p.height * 0.36)


def _crown(p: Grown, middle: Place, across: float, high: float) -> None:
    """Leaves on a ball, the far ones dark, with boughs of colour behind them; bare where there are none."""
    if not p.leaves:
        for azimuth in (0.0, 40.0, 80.0, 120.0, 160.0, 200.0, 240.0, 280.0, 320.0):
            p.put_stem(arc(middle, azimuth, 50, across * 0.8, 10, 2), max(p.height * 0.008, 0.8), "bark")
        return
    spots = (
        (-0.5, 0.1, -0.2),
        (0.5, 0.1, -0.15),
        (0, 0.2, 0.35),
        (-0.34, -0.2, 0.25),
        (0.36, -0.2, 0.2),
        (0, -0.3, -0.25),
    )
    for number, (x, y, z) in enumerate(spots):
        at = Place(middle.x + x * across, middle.y + y * across, middle.z + z * high)
        point, near = p.scene.see(at)
        r = across * 0.56
        tall = r if p.scene.view == "top" else min(r, high * 0.72)
        rim = []
        for k in range(10):
            angle = math.radians(36 * k + 20 * number)
            swell = 1.0 if k % 2 else 0.88
            rim.append(point + complex(r * swell * math.cos(angle), tall * swell * math.sin(angle)))
        p.scene.add(near - across, Outline((*rim, rim[0]), tone_of(p.leaf, -0.9 + 0.3 * number, p.dry)))
    for number in range(p.leaves):
        azimuth = number * GOLDEN_DEG + p.turned()
        rise = 80 - 150 * (number + 0.5) / p.leaves
        at = Place(
            middle.x + across * 0.8 * math.cos(math.radians(rise)) * math.cos(math.radians(azimuth)),
            middle.y + across * 0.8 * math.cos(math.radians(rise)) * math.sin(math.radians(azimuth)),
            middle.z + high * 0.8 * math.sin(math.radians(rise)),
        )
        p.put_leaf(at, azimuth, rise * 0.4 - 10, across * 0.4, droop=24, shade=p.shade_at(azimuth, 0.5 + rise / 180))
        if number % 2 == 0:
            p.flowers.append(towards(at, azimuth, 10, across * 0.16))
            if at.y < 0:
                p.fruits.append(towards(at, azimuth, -50, across * 0.14))


HABITS: dict[HabitForm, Callable[[Grown], None]] = {
    "rosette": rosette,
    "head": head,
    "stem": stem,
    "bush": bush,
    "climber": climber,
    "vine": vine,
    "grass": grass,
    "straps": straps,
    "clump": clump,
    "mat": mat,
    "shrub": shrub,
    "canes": canes,
    "tree": tree,
}


def bolt(p: Grown, height: float) -> None:
    """A flower stalk out of a rosette, with small leaves, branched at the top."""
    thick = max(height * 0.014, 1.0)
    top = Place(0, 0, height)
    p.put_stem([ORIGIN, Place(thick, 0, height * 0.5), top], thick)
    for k in range(4):
        share = 0.3 + 0.15 * k
        azimuth = k * GOLDEN_DEG
        p.put_leaf(Place(0, 0, height * share), azimuth, 34, p.width * 0.24, droop=20, shade=p.shade_at(azimuth, share))
    p.flowers.append(top)
    for k, azimuth in enumerate((10.0, 170.0, 100.0, 260.0)):
        path = arc(Place(0, 0, height * (0.62 + 0.06 * k)), azimuth, 56, height * 0.26, 0, 2)
        p.put_stem(path, thick * 0.7)
        p.flowers.append(path[-1])
