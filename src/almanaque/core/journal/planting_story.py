"""A planting told to people who are away: how it began, what became of it since they saw it, what comes next and when they are back."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.growth_dates import GrowthDates, picking_window
from almanaque.core.growth.observed_stages import FRUITS
from almanaque.core.growth.plant_height import height_mm, share_grown
from almanaque.core.journal.sightings import TROUBLE, Sighting, say
from almanaque.core.school.school_year import Calendar, Span
from almanaque.core.units import Units, format_length, format_mass
from almanaque.core.words.days import short_day

LEAST_HEIGHT_MM = 10.0  # under which nobody is told of it: our own choice
NEARLY = timedelta(days=14)  # so long before it is ready one looks for the sign of it: our own rule
IN_FLOWER = 0.8  # share of growth from which what fruits is in flower: as portraits are drawn
COUNTED = frozenset({"count", "flowers", "visitors"})
SOWN: dict[Method, str] = {"direct": "sown", "cloves": "set", "indoors": "sown in a tray", "starts": "set out"}
HAPPENED = {
    "emerged": "{name} came up on {day}.",
    "set out": "{name} moved from its tray into the bed on {day}.",
    "in flower": "{name} opened its first flowers on {day}.",
    "ready": "{name} was seen to be ready on {day}.",
    "bolted": "{name} ran to seed on {day}: a stalk rose from its middle.",
    "cleared": "{name} was cleared away on {day}; the bed is free for what comes next.",
    "lost": "{name} was lost on {day}.",
}


@dataclass(frozen=True)
class PickedLot:
    """One picking: its day, its amount in words, and its weight [g] where that is known."""

    day: date
    amount: str
    grams: float | None


@dataclass(frozen=True)
class PlantingStory:
    """What is known of a planting. `planted_as` is what the class that is told was called when it planted this; empty for others."""

    crop: Crop
    method: Method
    status: Literal["pencilled", "planned", "in the ground", "finished", "lost"]
    start_on: date
    dates: GrowthDates | None = None
    events: Mapping[str, date] = field(default_factory=dict)
    seen: Sequence[Sighting] = ()
    picked: Sequence[PickedLot] = ()
    planted_as: str = ""

    @property
    def name(self) -> str:
        return self.crop.name.en


def began(story: PlantingStory) -> str:
    """How it began, and by whom it was planted where that is who reads of it; empty before it has begun."""
    day = story.events.get("started", story.start_on)
    if "started" not in story.events:
        return ""
    if story.planted_as:
        return f"Planted by you on {_dated(day)}, when you were {story.planted_as}."
    return f"{SOWN[story.method][:1].upper()}{SOWN[story.method][1:]} on {_dated(day)}."


def changes(story: PlantingStory, since: date, today: date, units: Units) -> list[str]:
    """What became of it from a day on, in sentences and in order; nothing where nothing was noted."""
    found: list[tuple[date, str]] = [
        (day, words.format(name=story.name, day=short_day(day)))
        for kind, words in HAPPENED.items()
        if (day := story.events.get(kind)) is not None and since <= day <= today
    ]
    for one in story.seen:
        if one.kind in TROUBLE and one.what and since <= one.day <= today:
            found.append((one.day, f"We found {one.what} on the {story.name.lower()} on {short_day(one.day)}."))
    for one in story.seen:
        if one.kind in COUNTED and since <= one.day <= today:
            found.append((one.day, f"{story.name}, {short_day(one.day)}: {say(one, units)}."))
    if grown := _grown(story, since, today, units):
        found.append((today, grown))
    if picked := _picked(story, since, today, units):
        found.append((today, picked))
    return [words for _, words in sorted(found, key=lambda pair: pair[0])]


def _grown(story: PlantingStory, since: date, today: date, units: Units) -> str:
    """How much it grew between two heights of the same team, or of nobody in particular; teams are not named."""
    by_team: dict[str, list[Sighting]] = {}
    for one in sorted(story.seen, key=lambda s: s.day):
        if one.kind == "height" and one.amount and since <= one.day <= today:
            by_team.setdefault(one.team, []).append(one)
    pairs = [(rows[0], rows[-1]) for rows in by_team.values() if rows[0].day < rows[-1].day]
    if not pairs:
        return ""
    first, last = max(pairs, key=lambda pair: pair[1].day)
    begun, ended = (format_length(one.amount or 0, units, feet=False) for one in (first, last))
    return f"{story.name} grew from {begun} on {short_day(first.day)} to {ended} on {short_day(last.day)}."


def _picked(story: PlantingStory, since: date, today: date, units: Units) -> str:
    lots = [lot for lot in story.picked if since <= lot.day <= today]
    if not lots:
        return ""
    grams = [lot.grams for lot in lots if lot.grams is not None]
    amount = format_mass(sum(grams), units) if len(grams) == len(lots) else ", ".join(lot.amount for lot in lots)
    times = "once" if len(lots) == 1 else f"{len(lots)} times"
    return f"{story.name} was picked {times}: {amount}."


def height(story: PlantingStory, today: date, units: Units) -> str:
    """How high it was seen to be beside how high it should be by now; empty for what is not up, and for what comes again each year."""
    measured = max((one for one in story.seen if one.kind == "height"), key=lambda one: one.day, default=None)
    should = should_be(story.crop, story.dates, today, units) if story.status == "in the ground" else ""
    if measured is not None and measured.amount:
        was = f"It was {format_length(measured.amount, units, feet=False)} high on {short_day(measured.day)}"
        return f"{was}; by its forecast it should be about {should} by now." if should else f"{was}."
    return f"By its forecast it should be about {should} high by now." if should else ""


def should_be(crop: Crop, dates: GrowthDates | None, today: date, units: Units) -> str:
    """How high it should be by a day, to a centimetre or an inch; empty for what is not up, and for what comes again each year."""
    if dates is None or crop.life == "perennial":
        return ""
    expected = height_mm(crop, today, dates)
    step = 25.4 if units == "us" else 10.0
    rounded = max(step, round(expected / step) * step)
    return format_length(rounded, units, feet=False) if expected >= LEAST_HEIGHT_MM else ""


def cautions(crop: Crop) -> str:
    """What whoever comes near it is told; empty where there is nothing to say."""
    poison = f"{crop.poisonous[:1].upper()}{crop.poisonous[1:]}." if crop.poisonous else ""
    return " ".join(words for words in (poison, crop.caution) if words)


def ahead(story: PlantingStory, today: date, calendar: Calendar) -> str:
    """What comes next and when, however far, and whether those who read are there then."""
    if story.status in ("finished", "lost"):
        return "Its time in the bed is over for this year."
    if "started" not in story.events and story.start_on >= today:
        return f"It is to be {SOWN[story.method]} on {_dated(story.start_on)}{_there(story.start_on, today, calendar)}."
    if "started" not in story.events:
        return f"It was to be {SOWN[story.method]} on {_dated(story.start_on)}, and has not been yet."
    if "bolted" in story.events:
        return "It has run to seed: no longer for eating, but good for bees, or to be left for its seed."
    if story.dates is None:
        return ""
    window = picking_window(story.crop, story.dates, today, first_picked=story.events.get("first picking"))
    if story.crop.for_guests or story.crop.part == "flower":
        if window.early <= today <= window.last:
            return "It should be in flower now."
        return f"It should flower from {_dated(window.early)}{_there(window.early, today, calendar)}."
    if window.begun:
        return f"It is being picked, until about {_dated(max(window.best, today))}."
    if today > window.last:
        return "Its picking should be over."
    if window.early <= today:
        return "It may be ready now."
    ready = f"It should be ready from {_dated(window.early)}{_there(window.early, today, calendar)}"
    back = _back_after(window.early, calendar)
    waits = back is not None and window.early < back <= window.last
    return (
        f"{ready}; some of it should wait until {_dated(back)}, when school is open." if waits and back else f"{ready}."
    )


def named(story: PlantingStory, words: str) -> str:
    """A sentence about a planting with its name in it, for a letter that tells of several; empty for none."""
    if words.startswith("It "):
        return f"{story.name}{words[2:]}"
    return f"{story.name}: {words[:1].lower()}{words[1:]}" if words else ""


def look_for(story: PlantingStory, today: date) -> str:
    """One thing to look for at its next visit."""
    crop, dates = story.crop, story.dates
    if "bolted" in story.events:
        return "who visits its flowers, and how its seed is made"
    if story.status != "in the ground" or dates is None:
        return ""
    grown = share_grown(today, dates)
    if crop.life == "perennial":
        return "" if crop.for_guests else crop.ready_sign
    if grown <= 0:
        return "the first green that breaks the ground, and how many seed leaves it has"
    if grown >= IN_FLOWER and (crop.for_guests or crop.part == "flower" or (crop.part in FRUITS and grown < 1)):
        return "who visits its flowers"
    if today >= dates.first_pick_early - NEARLY:
        return crop.ready_sign
    return "new leaves; count them now, and again next time"


def _dated(day: date) -> str:
    return f"{short_day(day)} {day.year}"


def _gap(day: date, calendar: Calendar) -> Span | None:
    """The time without children in which a day lies."""
    gap = calendar.next_break(day)
    return gap if gap is not None and gap.starts <= day <= gap.ends else None


def _back_after(day: date, calendar: Calendar) -> date | None:
    """The first day with children after the break in which a day lies; None for a day in no break."""
    gap = _gap(day, calendar)
    return calendar.next_day_here(gap.ends) if gap else None


def _there(day: date, today: date, calendar: Calendar) -> str:
    """Whether those who are at school are there on a day, said from today on."""
    if not calendar.reaches(day):
        return ""
    if _gap(day, calendar):
        return ", while school is closed"
    away = _gap(today, calendar)
    return ", when you are back" if away and day > away.ends else ""
