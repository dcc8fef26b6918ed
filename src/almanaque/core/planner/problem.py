"""What is asked of the planner: a span of days, beds, classes, wishes of any grain, limits, and what counts before what."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import cached_property
from typing import Literal, get_args

from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, Grid
from almanaque.core.garden.rotation import Stood
from almanaque.core.garden.site_suitability import Closed
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.setting import Setting
from almanaque.core.school.classes import FlagKind
from almanaque.core.school.school_year import Calendar
from almanaque.core.units import Units
from almanaque.core.year.bed_promises import Promised

Weight = Literal["must", "would like", "if room"]
WEIGHTS: tuple[Weight, ...] = get_args(Weight)
Kind = Literal["crop", "quick", "any food", "flowers", "green manure"]
KINDS: tuple[Kind, ...] = get_args(Kind)
Origin = Literal["typed", "ballot", "last year", "theme", "seed box", "filling", "kitchen"]
Aim = Literal["chances", "fairness", "rotation", "likes", "kinds", "summer", "work", "cost"]
AIMS: tuple[Aim, ...] = get_args(Aim)
Which = Literal["surest", "most kinds", "least summer"]  # plans that differ on purpose
LimitName = Literal["minutes", "break_beds", "watered_beds", "sill_plants", "row_covers", "money"]

LONGEST_SPAN = timedelta(days=550)  # a year, and summer first before it: our own rule
MOST_WISHES = 250  # a plan of more cannot be looked through by anybody: our own rule
MOST_BEDS = 80  # of a plan: our own rule


@dataclass(frozen=True)
class PlanSpan:
    """The days on which something may take its place in a bed, and from when on beds are wanted back, if they are."""

    starts: date
    ends: date
    free_from: date | None = None

    def __post_init__(self) -> None:
        if self.ends < self.starts:
            raise BadInput("planner.ends_before_start", field="ends")
        if self.ends - self.starts > LONGEST_SPAN:
            raise BadInput("planner.span_too_long", field="ends", days=LONGEST_SPAN.days)
        if self.free_from is not None and self.free_from <= self.starts:
            raise BadInput("planner.free_before_start", field="free_from")


@dataclass(frozen=True)
class Taken:
    """Squares that something holds from its first to its last day: what stands there, is planned there, or is kept."""

    cells: frozenset[Cell]
    starts: date
    ends: date
    what: str = ""


@dataclass(frozen=True)
class PlanBed:
    """A bed that may be used, `cells` of it. `sun_h` are hours of direct sun by month (None: not known).

    `group` looks after it; a `pot` holds what takes over elsewhere. `setting` says what plants feel there, `history` what stood there.
    Where `lead` is true a laboratory found lead; `manured_on` are days on which raw manure was spread; `shade` is the direction along
    columns and rows to which shadows fall at noon.
    """

    key: str
    name: str
    grid: Grid
    cells: frozenset[Cell]
    setting: Setting
    depth_mm: float = 1000.0
    sun_h: Sequence[float | None] = (None,) * 12
    group: str | None = None
    pot: bool = False
    taken: Sequence[Taken] = ()
    closed: Sequence[Closed] = ()
    promised: Sequence[Promised] = ()
    history: Sequence[Stood] = ()
    narrow_mm: float | None = None
    lead: bool = False
    manured_on: Sequence[date] = ()
    shade: tuple[float, float] = (0.0, -1.0)


@dataclass(frozen=True)
class PlanClass:
    """A group of children that sows and picks; `minutes` of work it has a week, None for as many as its lessons have."""

    key: str
    name: str
    children: int = 0
    youngest: int | None = None
    flags: Sequence[tuple[FlagKind, str]] = ()
    minutes: int | None = None


@dataclass(frozen=True)
class Wish:
    """What somebody would like. `crops` are keys of the catalogue any of which would do; none where `kind` says what does.

    How much of it is said by one of `squares` (of a foot), `plants` or `grams`; a square if none is. `ready_by` is the day for which it
    must be ready, `ready_to` the day until which it must last, both optional. `beds` are the only ones in which it may stand.
    """

    key: str
    text: str
    crops: tuple[str, ...] = ()
    kind: Kind = "crop"
    squares: int | None = None
    plants: int | None = None
    grams: int | None = None
    group: str | None = None
    ready_by: date | None = None
    ready_to: date | None = None
    weight: Weight = "would like"
    votes: int = 0
    origin: Origin = "typed"
    beds: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        if (self.kind == "crop") != bool(self.crops):
            raise BadInput("planner.wish_without_crop", field="crop")
        if self.ready_to is not None and (self.ready_by is None or self.ready_to < self.ready_by):
            raise BadInput("planner.lasts_before_ready", field="ready_to")
        for name, most in (("squares", 400), ("plants", 5000), ("grams", 2_000_000)):
            value = getattr(self, name)
            if value is not None and not 1 <= value <= most:
                raise BadInput("planner.amount_out_of_range", field=name, most=most)


@dataclass(frozen=True)
class PlanLimits:
    """What there is not more of; None for no limit. `minutes` are of work a class has a week where it has no figure of its own.

    `break_beds` is how many beds may need picking in one break, `watered_beds` how many carers can water in one, `sill_plants` how many
    starts stand on the sills at once, `row_covers` how many plantings can be covered at once, `money` [minor units] what seeds and
    starts may cost.
    """

    minutes: int | None = None
    break_beds: int | None = None
    watered_beds: int | None = None
    sill_plants: int | None = None
    row_covers: int = 0
    money: int | None = None


@dataclass(frozen=True)
class Way:
    """How a wish is granted: which crop, started how and when, in which bed, under which cover."""

    crop: str
    method: Method
    start: date
    bed: str
    cover: CoverKey | None = None


@dataclass(frozen=True)
class Decided:
    """What a person has said of single proposals, by wish: kept as it is with its squares, not in this way, not in this bed, not at all.

    What was put `there` may stand in that bed only, and in those squares if there are any and they are free.
    """

    kept: Mapping[str, tuple[Way, frozenset[Cell]]] = field(default_factory=dict)
    there: Mapping[str, tuple[str, frozenset[Cell]]] = field(default_factory=dict)
    not_so: frozenset[tuple[str, Way]] = frozenset()
    not_there: frozenset[tuple[str, str]] = frozenset()
    rubbed_out: frozenset[str] = frozenset()


@dataclass(frozen=True)
class PlanProblem:
    """Everything that a plan depends on. `before` is the plan that is there, of which as little as possible is to be moved.

    `at_hand` are crops of which there is seed, `old_seed` those whose seed would grow too old, `prices` what a packet or a start costs
    [minor units] where that is known, `barred` crops that the school does not grow.
    """

    crops: Catalogue
    calendar: Calendar
    today: date
    span: PlanSpan
    beds: tuple[PlanBed, ...]
    classes: tuple[PlanClass, ...]
    wishes: tuple[Wish, ...]
    limits: PlanLimits = PlanLimits()
    aims: tuple[Aim, ...] = AIMS
    rest_years: int = 3
    units: Units = "us"
    at_hand: frozenset[str] = frozenset()
    old_seed: frozenset[str] = frozenset()
    prices: Mapping[str, int] = field(default_factory=dict)
    barred: frozenset[str] = frozenset()
    decided: Decided = Decided()
    before: Mapping[str, Way] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not self.beds:
            raise BadInput("planner.no_bed", field="beds")
        if len(self.beds) > MOST_BEDS:
            raise BadInput("planner.too_many_beds", field="beds", most=MOST_BEDS)
        if not self.wishes:
            raise BadInput("planner.no_wish", field="wishes")
        if len(self.wishes) > MOST_WISHES:
            raise BadInput("planner.too_many_wishes", field="wishes", most=MOST_WISHES)
        if sorted(self.aims) != sorted(AIMS):
            raise BadInput("planner.aims_unknown", field="aims")

    @cached_property
    def most_votes(self) -> int:
        """The most votes that any wish has."""
        return max(wish.votes for wish in self.wishes)

    def class_of(self, key: str | None) -> PlanClass | None:
        return next((one for one in self.classes if one.key == key), None)


def crops_of(wish: Wish, crops: Catalogue) -> list[Crop]:
    """The crops that would do for a wish. Raises BadInput for a key that the catalogue does not know."""
    if wish.kind == "crop":
        return [crops[key] for key in wish.crops]
    return [crop for crop in crops if crop.life != "perennial" and _is_of_kind(crop, wish.kind)]


QUICK_DAYS = 45  # to the first picking, most of the packet's days: our own rule


def _is_of_kind(crop: Crop, kind: Kind) -> bool:
    food = not crop.for_guests and crop.group not in ("cover crops", "flowers")
    if kind == "quick":
        return food and min(most for _, most in crop.days.values()) <= QUICK_DAYS
    if kind == "any food":
        return food
    return crop.group == ("flowers" if kind == "flowers" else "cover crops")
