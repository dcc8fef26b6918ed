"""The only place that asks what time it is; everything else is told."""

from dataclasses import dataclass
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from almanaque.settings import Settings


@dataclass(frozen=True)
class Clock:
    """The real time, or a demo day on which time stands still."""

    demo_day: date | None = None

    def now(self) -> datetime:
        """The instant, in UTC; for sessions and records, also in a demo."""
        return datetime.now(UTC)

    def today(self, zone: str) -> date:
        """The day it is at a school in this IANA time zone, or the demo day."""
        return self.demo_day or self.now().astimezone(ZoneInfo(zone)).date()


def from_settings(chosen: Settings) -> Clock:
    return Clock(chosen.demo_day)
