"""How the demo schools are written down."""

from dataclasses import dataclass, field
from datetime import date, time
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

from almanaque.core.crops.crop import Method
from almanaque.core.growth.covers import CoverKey
from almanaque.core.journal.sightings import Kind, Outcome
from almanaque.core.school.classes import FlagKind, Grades, GroupKind
from almanaque.core.school.school_year import HalfDay, Span
from almanaque.core.units import Units
from almanaque.core.week.water import WaterPractice
from almanaque.standins.weather import SimulatedPlace


def demo_id(*words: object) -> UUID:
    """The same words give the same id on every machine."""
    return uuid5(NAMESPACE_URL, "almanaque-demo/" + "/".join(str(word) for word in words))


@dataclass(frozen=True)
class Year:
    name: str
    starts: date
    ends: date
    terms: tuple[Span, ...]
    closures: tuple[Span, ...]
    feasts: tuple[Span, ...] = ()
    half_days: tuple[HalfDay, ...] = ()


@dataclass(frozen=True)
class DemoGroup:
    """Slots are (weekday, time, minutes); flags (kind, what); `programme` slots are held in the summer programme."""

    name: str
    head_count: int
    slots: tuple[tuple[int, time, int], ...]
    entry_year: int | None = None
    kind: GroupKind = "class"
    led_by: str = ""
    flags: tuple[tuple[FlagKind, str], ...] = ()
    teams: tuple[str, ...] = ()
    programme: tuple[tuple[int, time, int], ...] = ()


@dataclass(frozen=True)
class DemoBed:
    """Sizes and places as people write them; `kept` is (label, x, y, length, width)."""

    name: str
    purpose: str
    kind: str
    size: str
    depth: str
    at: str
    material: str = ""
    built_year: int | None = None
    cell: str = "12 in"
    adopted_by: str = ""
    kept: tuple[tuple[str, str, str, str, str], ...] = ()
    turn: float = 0.0
    corners: tuple[str, ...] = ()
    light_h: float | None = None
    warmth_c: float | None = None
    drip_l_h: float | None = None
    sections: tuple[tuple[str, str, str, str, str], ...] = ()


@dataclass(frozen=True)
class DemoFeature:
    """Lengths as people write them; `months_bare` are those without leaves."""

    kind: str
    name: str
    at: str
    size: str
    height: str = ""
    base: str = ""
    months_bare: tuple[int, ...] = ()
    hose: str = ""
    turn: float = 0.0
    from_day: date | None = None
    to_day: date | None = None


@dataclass(frozen=True)
class DemoCrop:
    """A planting: from pencil to finished by what `happened` says. Pickings are (day, amount, unit, use)."""

    bed: str
    crop: str
    method: Method
    start: date
    squares: str
    set_out: date | None = None
    cleared: date | None = None
    status: str = "in the ground"
    group: str = ""
    draft: str = ""
    with_others: bool = False
    pickings: tuple[tuple[date, str, str, str], ...] = ()
    cover: CoverKey | None = None
    theme: str = ""


@dataclass(frozen=True)
class DemoTheme:
    """What several beds grow their parts of."""

    name: str
    ready_on: date
    note: str = ""


@dataclass(frozen=True)
class DemoPromise:
    """A bed that must be free from a day on."""

    bed: str
    from_day: date
    what_for: str


@dataclass(frozen=True)
class Note:
    day: date
    bed: str
    body: str
    come_back_on: date | None = None
    closed_on: date | None = None


@dataclass(frozen=True)
class DemoStation:
    """A station of a kind, who has adopted it this year, and what was read there: day, reading, number or choice."""

    kind: str
    name: str
    group: str = ""
    readings: tuple[tuple[date, str, float | str], ...] = ()


@dataclass(frozen=True)
class DemoSighting:
    """Something seen on a planting that was started on a day, with what was done against it and whether that helped."""

    day: date
    bed: str
    crop: str
    kind: Kind
    what: str = ""
    amount: float | None = None
    team: str = ""
    part: str = ""
    severity: int | None = None
    remedy: str = ""
    outcome: Outcome | None = None


@dataclass(frozen=True)
class DemoDraft:
    """A pencil plan and whose it is."""

    name: str
    made_by: str = ""
    group: str = ""


@dataclass(frozen=True)
class BedFact:
    """What is on file of a bed: a closure, a soil test, what was put on, or a plant nobody sowed; see the loader for each."""

    bed: str
    what: str
    values: dict[str, Any]


@dataclass(frozen=True)
class DemoSupply:
    kind: str
    name: str
    have: float
    unit: str = ""
    price_minor: int | None = None
    low: float | None = None
    told: str = ""


@dataclass(frozen=True)
class DemoPartner:
    name: str
    kind: str
    gives: str
    contact: str
    asked_on: date | None = None
    answer: str = ""


@dataclass(frozen=True)
class PlaceScores:
    """A place on trial: kind, words, and one rater's (score, evidence) by criterion after another."""

    name: str
    kind: str
    about: str
    scores: dict[str, tuple[tuple[int, str], ...]]


@dataclass(frozen=True)
class DemoProject:
    name: str
    template: str
    starts: date
    done_until: date


@dataclass(frozen=True)
class DemoSchool:
    name: str
    setting: str
    zone: str
    latitude: float
    longitude: float
    units: Units
    theme: str
    weather: SimulatedPlace
    site_size: str
    years: tuple[Year, ...]
    groups: tuple[DemoGroup, ...]
    features: tuple[DemoFeature, ...]
    beds: tuple[DemoBed, ...]
    plantings: tuple[DemoCrop, ...]
    notes: tuple[Note, ...] = ()
    stations: tuple[DemoStation, ...] = ()
    seen: tuple[DemoSighting, ...] = ()
    grades: Grades = Grades()  # noqa: RUF009 - frozen
    place_name: str = ""
    partners: tuple[DemoPartner, ...] = ()
    places: tuple[PlaceScores, ...] = ()
    raters: tuple[str, ...] = ()
    projects: tuple[DemoProject, ...] = ()
    chart: dict[str, dict[str, tuple[int, ...]]] = field(default_factory=dict)  # crop: what is done: in which months
    drafts: tuple[DemoDraft, ...] = ()
    bed_facts: tuple[BedFact, ...] = ()
    supplies: tuple[DemoSupply, ...] = ()
    north_deg: float = 0.0
    themes: tuple[DemoTheme, ...] = ()
    promises: tuple[DemoPromise, ...] = ()
    hose_l_min: float | None = None
    bottle_l: float | None = None
    water_by: WaterPractice = "inch"
    rounds_taken: tuple[tuple[date, int, str], ...] = ()  # Monday, number in the week, who walks it
    device: str = ""  # its weather station, as the stand-in knows it
    mail_to: str = ""
    first_weather_day: date = field(default=date(1990, 1, 1))
