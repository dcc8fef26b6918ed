"""The weekly sheet for a kitchen or a stall: what comes, least and most, from which day, who brings it, and how to eat it.

Masses are grams.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.harvest.coming_harvest import ComingShare
from almanaque.core.school.school_year import Calendar

TO_SUNDAY = timedelta(days=6)  # from its Monday on


@dataclass(frozen=True)
class Bringer:
    """Who brings it: a class by its id on a day of a lesson, or carers where no class has a lesson from that day on."""

    group_id: str | None
    day: date | None


@dataclass(frozen=True)
class KitchenLine:
    """A crop of a week: least and most [g], from which day on, from which beds, who brings it.

    `sure` is False where part of it is not in the ground yet; `ways` are ways to eat, by part, the main one first.
    """

    crop: Crop
    low_g: float
    high_g: float
    from_day: date
    beds: str
    sure: bool
    bringer: Bringer
    ways: tuple[tuple[str, str], ...]


def lines(
    shares: Iterable[ComingShare],
    monday: date,
    calendar: Calendar,
    *,
    adopted: Mapping[str, str],
    ways: Mapping[str, Mapping[str, str]],
) -> list[KitchenLine]:
    """What comes in a week, by crop. `adopted` are ids of classes by the names of their beds. **Source:** our own rule."""
    found = []
    for share in shares:
        if share.monday != monday or share.crop.for_guests or share.crop.food_group == "not for eating":
            continue
        beds = share.bed.split(", ")
        found.append(
            KitchenLine(
                share.crop,
                share.low_g,
                share.high_g,
                share.from_day,
                share.bed,
                share.sure,
                bringer(calendar, share.from_day, monday + TO_SUNDAY, [adopted[b] for b in beds if b in adopted]),
                eaten(share.crop, ways),
            )
        )
    return sorted(found, key=lambda line: line.crop.name.en)


def bringer(calendar: Calendar, first: date, last: date, own: Sequence[str]) -> Bringer:
    """The first lesson of a class whose bed it is from a day on, else the first lesson of any, else nobody at school."""
    lessons = calendar.lessons(first, last)
    chosen = next((x for x in lessons if x.group_id in own), lessons[0] if lessons else None)
    return Bringer(chosen.group_id, chosen.day) if chosen else Bringer(None, None)


def eaten(crop: Crop, ways: Mapping[str, Mapping[str, str]]) -> tuple[tuple[str, str], ...]:
    """Ways to eat the parts of a crop, the part that it is grown for first; none where nothing is told."""
    told = ways.get(crop.kind, {})
    return tuple((crop.part if part == "main" else part, way) for part, way in told.items())
