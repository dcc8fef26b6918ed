"""What worked: for a crop and a bed over the seasons, its sowing days, losses and remedies, and the proposal for next year."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from almanaque.core.school.school_year import Calendar
from almanaque.core.words.days import short_day

LEAST_BREAK = 10  # days without school that make a break of it, weekends included


@dataclass(frozen=True)
class CropSeason:
    """One planting of a crop in a season: when started, first and last picking if any, and what became of it."""

    season: str
    bed: str
    started: date
    first: date | None
    last: date | None
    lost: bool = False
    lost_share: float | None = None
    lost_to: tuple[str, ...] = ()
    growing: bool = False


Met = Literal["before", "in a break", "not picked"]


@dataclass(frozen=True)
class Proposal:
    """What to change next year, with how often it would have helped: days earlier, in `helped` of `of` plantings."""

    sentence: str
    days_earlier: int
    helped: int
    of: int


def met(season: CropSeason, calendar: Calendar) -> Met:
    """Whether children were there for the first picking: not when it fell into a break of ten days or more, or was lost."""
    if season.first is None or season.lost:
        return "not picked"
    return "in a break" if _break_at(season.first, calendar) else "before"


def _break_at(day: date, calendar: Calendar) -> date | None:
    """The first day of the long break that a day lies in; None for a day with children here, and beyond the calendar."""
    return next((gap.starts for gap in calendar.breaks_between(day, day) if gap.days >= LEAST_BREAK), None)


def propose(seasons: Sequence[CropSeason], calendar: Calendar) -> Proposal | None:
    """Days by which to sow earlier so that every picking that fell into a break would have come before it, in whole weeks or fives.

    None while no picking fell into a break. The answer counts calendar days: seed sown earlier in spring takes longer, so the finder
    is to be asked for the day. **Source:** our own rule.
    """
    picked = [s for s in seasons if s.first is not None and not s.lost]
    late = [(s, start) for s in picked if s.first and (start := _break_at(s.first, calendar)) is not None]
    if not late:
        return None
    needed = max((s.first - start).days + 1 for s, start in late if s.first)
    step = 5 * -(-needed // 5)
    if step > 60:
        return Proposal(
            f"Ready in a break in {len(late)} of {len(picked)} plantings, by more than eight weeks: "
            "choose a faster variety, another season or a summer programme.",
            0,
            0,
            len(picked),
        )
    helped = sum(1 for s in picked if s.first and _break_at(s.first - timedelta(days=step), calendar) is None)
    return Proposal(
        f"Sow {step} days earlier: ready before the break in {helped} of {len(picked)} plantings, by calendar days.",
        step,
        helped,
        len(picked),
    )


def sown_words(seasons: Iterable[CropSeason]) -> str:
    """`sown 3 Apr 2026, picked from 12 May`, one after another."""
    return "; ".join(
        f"{short_day(s.started)} {s.started.year}"
        + (
            f", picked from {short_day(s.first)}"
            if s.first
            else ", lost"
            if s.lost
            else ", growing"
            if s.growing
            else ", not picked"
        )
        for s in seasons
    )
