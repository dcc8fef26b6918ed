"""A crop: typed, checked, each value with its source. `catalogue` reads them from their file.

Lengths are written as people write them and kept in millimetres; temperatures are °C, masses grams, yields grams per square
metre, warmth degree-days.
"""

import hashlib
import re
from functools import cached_property
from typing import Annotated, Any, Literal, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationInfo, model_validator

from almanaque.core.errors import BadInput
from almanaque.core.units import parse_length

Method = Literal["direct", "indoors", "starts", "cloves"]
METHODS: tuple[Method, ...] = get_args(Method)
Group = Literal[
    "roots",
    "leaves",
    "cabbages",
    "onions",
    "legumes",
    "gourds",
    "nightshades",
    "grains",
    "cover crops",
    "herbs",
    "flowers",
    "berries",
    "perennials",
    "trees",
]
Anchor = Literal["last freeze", "first freeze"]


def _length_mm(value: Any, info: ValidationInfo) -> float:
    if (info.context or {}).get("mm") and isinstance(value, int | float):
        return float(value)  # a crop that was read before
    if not isinstance(value, str):
        raise ValueError("write a length with its unit in quotes, like “4 in”")
    try:
        return float(parse_length(value))
    except BadInput as error:
        raise ValueError(error.message) from None


LengthMm = Annotated[float, BeforeValidator(_length_mm), Field(gt=0, le=20_000)]
Range = tuple[int, int]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Names(Strict):
    en: str = Field(min_length=2)
    es: str = Field(min_length=2)


class Window(Strict):
    """Usual weeks for a way of starting, counted from the median last or first freeze; below 0 is before it.

    Written as `direct, last freeze, -4 to 6`.
    """

    method: Method
    anchor: Anchor
    weeks: Range

    @model_validator(mode="before")
    @classmethod
    def _read(cls, value: Any) -> Any:
        if not isinstance(value, str):
            return value
        found = re.fullmatch(r"(\w+), (last freeze|first freeze), (-?\d+) to (-?\d+)", value)
        if found is None:
            raise ValueError("write a window like “direct, last freeze, -4 to 6”")
        return {"method": found[1], "anchor": found[2], "weeks": (int(found[3]), int(found[4]))}

    @model_validator(mode="after")
    def _in_order(self) -> "Window":
        if not -40 <= self.weeks[0] <= self.weeks[1] <= 40:
            raise ValueError("weeks of a window are two whole numbers in order between -40 and 40")
        return self


class Picking(Strict):
    """Another part that is picked: when it is ready and how it is taken."""

    sign: str = Field(min_length=8)
    how: str = Field(min_length=8)


class Coefficients(Strict):
    """Crop coefficients (first stage, middle, end) and stage lengths [d], none where the table has none."""

    kc: tuple[float, float, float]
    stages: tuple[int, ...] = ()


class Crop(Strict):
    """One crop. `days` counts packet days to the first picking: from sowing, setting, or setting out, by method."""

    key: str
    code: str = Field(pattern=r"^[A-Z][a-z]$", description="two letters on the drawing")
    name: Names
    botanical: str
    family: str
    group: Group
    life: Literal["annual", "biennial", "perennial"]

    season: Literal["cool", "warm"]
    bears_c: float = Field(ge=-40, le=12, description="coldest night [°C] that the growing plant bears")
    heat_c: float = Field(
        ge=18, le=45, description="greatest temperature [°C] above which a hot week makes it bolt or stop"
    )
    germination_c: tuple[float, float, float] = Field(
        description="least, best and most soil temperature [°C] to come up"
    )
    emergence: str = Field(default="", description="its row in the table of emergence by soil temperature")
    emergence_days: tuple[float | None, ...] = Field(
        default=(), description="that row, filled in on load; None is no emergence"
    )
    base_c: float = Field(ge=-2, le=16, description="temperature [°C] above which it grows")
    upper_c: float = Field(
        default=30, ge=14, le=42, description="temperature [°C] above which more warmth does not help"
    )
    slower_c: float | None = Field(
        default=None,
        ge=18,
        le=50,
        description="temperature [°C] above which it grows slower, if not 8 °C above the last",
    )
    still_c: float | None = Field(
        default=None,
        ge=25,
        le=80,
        description="temperature [°C] at which it stands still, if not 18 °C above the last but one",
    )
    chills_c: float | None = Field(
        default=None,
        ge=0,
        le=12,
        description="nights [°C] that harm it when a week of them averages less; tender crops 4",
    )
    seed_waits_days: int | None = Field(
        default=None,
        ge=3,
        le=300,
        description="days that its seed survives in soil too cold for it; 60, of warm crops 15",
    )
    regrows: bool = Field(default=False, description="comes again from below when frost cuts it down young")
    stands_days: int | None = Field(
        default=None,
        ge=1,
        le=250,
        description="days after the first picking that it may stand in the ground or on the plant, if longer than picking_days",
    )
    stands_to_c: float | None = Field(
        default=None,
        ge=-40,
        le=12,
        description="coldest night [°C] that what stands ripe bears, if not the growing plant's",
    )
    fruit_days: int = Field(
        default=0, ge=0, le=240, description="days from that warmth, which brings it into bloom, to the first picking"
    )
    short_day_h: float | None = Field(
        default=None, ge=9, le=18, description="hours of daylight below which it flowers, once days grow shorter"
    )
    winter_chill_h: int = Field(
        default=0,
        ge=0,
        le=2000,
        description="hours of winter chill that a plant which comes again needs before it bears",
    )
    degree_days: dict[Method, float] = Field(
        default={},
        description="degree-days [°C d] above the base to the first picking, where a figure is known; else from days",
    )
    packet_c: float | None = Field(
        default=None, ge=10, le=30, description="temperature [°C] at which its packet's days hold, if not its season's"
    )
    long_day: bool = Field(
        default=False, description="it goes from leaf to ear or bulb by the length of the day, fully from 15 hours"
    )
    cold_days: int = Field(default=0, ge=0, le=150, description="days of cold it needs before it can ripen")
    cold_below_c: float = Field(
        default=10, ge=0, le=15, description="daily mean [°C] at or below which a day counts as cold"
    )
    without_cold: str = Field(default="", description="what becomes of it without the cold")
    seed_cold_days: int = Field(default=0, ge=0, le=150, description="days of cold that the seed needs to come up")
    bolts_after_cold_days: int = Field(
        default=0, ge=0, le=150, description="days of cold after which the next long days make it flower"
    )
    season_warmth: float | None = Field(
        default=None,
        gt=0,
        le=4000,
        description="degree-days [°C d] from midwinter to the first picking of a plant that comes again each year",
    )

    methods: tuple[Method, ...] = Field(min_length=1, description="ways of starting it, the usual one first")
    windows: tuple[Window, ...] = Field(default=(), description="usual weeks from the freezes, by method")
    bulbs_at_h: float | None = Field(
        default=None, ge=8, le=18, description="hours of lengthening days from which it makes its bulb"
    )
    set_when: Literal["", "dormant", "before winter"] = Field(
        default="", description="what its planting season is told by instead, where there is a weather record"
    )
    set_below_c: float | None = Field(
        default=None, ge=5, le=25, description="normal mean of the day under which it is set in autumn"
    )
    roots_in_weeks: int = Field(default=0, ge=0, le=16, description="weeks that it wants before the ground freezes")
    weeks_indoors: int = Field(default=0, ge=0, le=14)
    leaves_at_transplant: int = Field(default=0, ge=0, le=12, description="true leaves when it is set out")
    emerges: Range = Field(
        description="days from sowing until it is up: in ground at its best, and at its least temperature"
    )
    days: dict[Method, Range]
    depth_mm: LengthMm = Field(description="depth of sowing, or of setting what is neither sown nor set out")
    set_depth_mm: LengthMm | None = Field(
        default=None, description="depth at which plants are set, if not as deep as in the pot"
    )
    stock: str = Field(default="", description="what is set when it is neither sown nor set out: cloves, sets …")

    in_row_mm: LengthMm
    row_mm: LengthMm
    thin_to_mm: LengthMm | None = None
    per_square: int | None = Field(default=None, ge=1, le=36, description="published count in a 12 in square")
    height_mm: LengthMm
    width_mm: LengthMm
    support: bool = False
    support_kind: Literal["", "stake", "cage", "trellis", "poles"] = ""
    climbs: bool = Field(default=False, description="goes up a support, or a tall neighbour")
    sprawls_mm: LengthMm | None = Field(default=None, description="how far its vines run from where it stands")
    sun_least_h: float = Field(ge=0, le=12, description="least hours of direct sun a day in its season")
    soil_least_mm: LengthMm = Field(description="least depth of soil")
    ph: tuple[float, float] = Field(description="the soil it likes, from sour to sweet")
    feeding: Literal["light", "middling", "heavy"]
    coefficients: str = Field(default="", description="its row in the table of crop coefficients")
    water: Coefficients | None = Field(
        default=None, description="that row, filled in on load; for water, never for picking dates"
    )
    spreads: bool = Field(default=False, description="takes over where its runners or seed are not held in")
    nibbled: bool = Field(default=False, description="eaten in passing, so it wants to stand by a path")
    bare_months: tuple[int, ...] = Field(default=(), description="months without leaves north of the equator")
    divide_years: int = Field(default=0, ge=0, le=12, description="years after which a clump is divided; 0 never")
    cut_back_months: tuple[int, ...] = Field(
        default=(), description="months north of the equator in which it is cut back"
    )

    picking_days: int = Field(
        ge=1, le=200, description="how long it is picked again and again, or what is picked once is at its best"
    )
    picked: Literal["once", "many"]
    part: str
    ready_sign: str = Field(min_length=8)
    how_to_pick: str = Field(min_length=8)
    parts: dict[str, Picking] = Field(default={}, description="other parts that are picked, each with sign and how")
    cure_days: int = Field(default=0, ge=0, le=60, description="days of curing or drying after the picking")
    keeps_weeks: int | None = Field(
        default=None, ge=1, le=104, description="weeks that it keeps at the least after it was picked and cured"
    )
    keeps_how: str = Field(default="", description="how it is stored")
    touches_soil: bool = Field(
        default=True, description="the part eaten touches the ground, for the days after raw manure"
    )
    weights_g: dict[str, float] = Field(description="grams of one count, bunch, head or bag")
    yield_g_m2: tuple[float, float] = Field(description="usual range")
    yield_plant_g: tuple[float, float] | None = Field(default=None, description="usual range of one plant")

    germination: float = Field(gt=0, le=1, description="usual share of good seed that comes up")
    survival: float = Field(default=0.9, gt=0, le=1)
    seeds_per_gram: float | None = Field(default=None, gt=0)
    packet_seeds: int | None = Field(default=None, gt=0, description="seeds in a packet as commonly sold")
    seed_years: Range | None = Field(default=None, description="usual life of the seed [years] kept cool and dry")

    pollination: Literal["self", "wind", "insects", "not needed"] = Field(
        description="what must happen before the part is there"
    )
    male_female: bool = Field(default=False, description="male and female flowers apart, open together or by hand")
    no_set: str = Field(default="", description="what keeps fruit from setting")
    crosses_with: str = Field(default="", description="what its seed crosses with")
    isolation_m: float | None = Field(
        default=None, ge=0, le=5000, description="distance [m] from its like for pure seed"
    )
    blooms: tuple[int, ...] = Field(
        default=(), description="months north of the equator in which it flowers, of a plant that comes again"
    )
    bloom_days: Range | None = Field(
        default=None, description="days after sowing or setting out until it flowers, and for how long"
    )
    nectar: bool = Field(default=False, description="nectar or pollen worth a bee's visit")
    drinkers: str = Field(default="", description="who comes to its flowers, and from what form of flower")
    host_for: str = Field(default="", description="whose caterpillars eat it")
    origin: str = Field(default="", description="native, introduced or invasive, by region where known")

    care: str = Field(min_length=8, description="care in a line or two")
    caution: str = Field(default="", description="where somebody can be hurt")
    poisonous: str = Field(default="", description="which parts are poisonous, in words")
    allergy: str = Field(default="", description="what it can do to those who are allergic")
    look_alike: str = Field(default="", description="what it can be mistaken for")
    ages_from: int = Field(ge=3, le=18, description="youngest age that usually handles it alone")
    food_group: str
    rich_in: str = ""
    sources: dict[str, str]

    own: frozenset[str] = Field(default=frozenset(), description="fields that the school has set itself")
    based_on: str = Field(default="", description="the crop of the catalogue from which a school's own one begins")

    corrected_days: int = Field(
        default=0, description="days by which the school's own seasons have moved its first picking"
    )

    @property
    def kind(self) -> str:
        """Key of the crop of the catalogue that it is, or that it is a variety of; its own with a botanical name of its own."""
        return self.based_on if self.based_on and "botanical" not in self.own else self.key

    def depth_for(self, method: Method) -> float | None:
        """How deep it goes in that way [mm]; None for plants that go as deep as they stood in the pot."""
        return self.set_depth_mm if method in ("indoors", "starts") else self.depth_mm

    @property
    def sets_in_warmth(self) -> bool:
        """A warm annual that must set fruit before it is picked."""
        return (
            self.season == "warm"
            and self.life == "annual"
            and self.pollination in ("self", "insects")
            and bool(self.no_set)
        )

    @property
    def keeps_days(self) -> int:
        """Days after the picking until which it keeps in store; 0 for what is eaten fresh."""
        return self.cure_days + 7 * self.keeps_weeks if self.keeps_weeks else 0

    @property
    def tender(self) -> bool:
        """Killed by a light frost."""
        return self.bears_c >= -0.5

    @property
    def dies_c(self) -> float:
        """The night [°C] that kills it; warmer ones below `bears_c` touch its leaves. **Source:** our own rule: half a degree for
        what is tender, 3 °C for what hardens."""
        return self.bears_c - (0.5 if self.tender else 3.0)

    @property
    def cardinal_c(self) -> tuple[float, float, float, float]:
        """The temperatures [°C] from which it grows, grows no faster, grows slower, and stands still."""
        slower = self.slower_c or self.upper_c + 8.0
        return self.base_c, self.upper_c, slower, self.still_c or slower + 10.0

    @property
    def harmed_by_nights_c(self) -> float | None:
        """Nights [°C] that harm it when a week of them averages less; none for what is hardy."""
        if self.chills_c is not None:
            return self.chills_c
        return 4.0 if self.season == "warm" and self.bears_c >= 0 and self.life == "annual" else None

    @property
    def seed_waits(self) -> int:
        """Days that its seed survives in soil too cold for it."""
        return self.seed_waits_days or (15 if self.season == "warm" else 60)

    @property
    def for_guests(self) -> bool:
        """Grown for bees and butterflies, so that nobody need be there to pick it."""
        return self.group in ("flowers", "trees") and self.food_group == "not for eating"

    @property
    def spacing_mm(self) -> float:
        """The distance each way when planted in squares: the in-row spacing."""
        return self.in_row_mm

    @cached_property
    def digest(self) -> str:
        """Changes when any value does; answers are kept by it."""
        return hashlib.sha256(self.model_dump_json().encode()).hexdigest()[:24]

    def bare_in(self, *, southern: bool) -> frozenset[int]:
        """Months without leaves, half a year on south of the equator."""
        return turned(self.bare_months, southern=southern)

    @property
    def picks_days(self) -> int:
        """Days over which it is picked again and again; 0 for what is picked once."""
        return self.picking_days if self.picked == "many" else 0

    @property
    def best_days(self) -> int:
        """Days for which what is picked once is at its best; 0 for what is picked again and again."""
        return self.picking_days if self.picked == "once" else 0

    def source_of(self, field: str) -> str:
        """Key of the source of a value; `default` serves the values without one of their own."""
        return self.sources.get(field, self.sources["default"])

    @model_validator(mode="after")
    def _consistent(self) -> "Crop":
        for method in self.methods:
            if method not in self.days:
                raise ValueError(f"days has no range for “{method}”")
        for name, (least, most) in {"emerges": self.emerges, **{f"days.{m}": r for m, r in self.days.items()}}.items():
            if not 0 <= least <= most <= 1500:
                raise ValueError(f"{name} must be two whole numbers in order, at most 1500")
        for name in ("degree_days", "windows"):
            named = {w.method for w in self.windows} if name == "windows" else set(self.degree_days)
            if strange := named - set(self.methods):
                raise ValueError(f"{name} names “{min(strange)}”, which is not among the methods")
        if not self.germination_c[0] < self.germination_c[1] < self.germination_c[2] <= 45:
            raise ValueError("germination_c must be three numbers in order: least, best, most")
        if self.base_c >= self.upper_c:
            raise ValueError("base_c must be below upper_c")
        if not self.cardinal_c[1] <= self.cardinal_c[2] < self.cardinal_c[3]:
            raise ValueError("upper_c, slower_c and still_c must rise")
        if "cloves" in self.methods and not self.stock:
            raise ValueError("stock is missing for a crop that is set in the ground")
        if "indoors" in self.methods and not self.weeks_indoors:
            raise ValueError("weeks_indoors is missing for a crop that is started indoors")
        if bool(self.cold_days) != bool(self.without_cold):
            raise ValueError("without_cold must be given for a crop with cold_days, and only for one")
        if bool(self.keeps_weeks) != bool(self.keeps_how):
            raise ValueError("keeps_how must be given for a crop with keeps_weeks, and only for one")
        if not 3 <= self.ph[0] < self.ph[1] <= 10:
            raise ValueError("ph must be two numbers in order between 3 and 10")
        for name in ("bare_months", "blooms", "cut_back_months"):
            if any(not 1 <= month <= 12 for month in getattr(self, name)):
                raise ValueError(f"{name} are numbers from 1 to 12")
        if self.support != bool(self.support_kind):
            raise ValueError("support_kind must be given for a crop with support, and only for one")
        for name in ("yield_g_m2", "yield_plant_g", "seed_years"):
            pair = getattr(self, name)
            if pair is not None and not 0 < pair[0] <= pair[1]:
                raise ValueError(f"{name} must be two numbers in order")
        if "default" not in self.sources:
            raise ValueError("sources needs a default")
        if any(weight <= 0 for weight in self.weights_g.values()):
            raise ValueError("weights_g must be above 0")
        return self


def turned(months: tuple[int, ...], *, southern: bool) -> frozenset[int]:
    """Months of the year, half a year on south of the equator."""
    return frozenset((month + 5) % 12 + 1 if southern else month for month in months)
