"""What to do in a lesson when it rains: jobs that wait for dry weather, and mats that can be made indoors."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

# Steps that spoil wet soil, seed or plants, or are no fun in it: common practice, no source.
WANTS_DRY = frozenset(
    {"prepare bed", "sow", "thin", "mulch", "support", "clear", "cut back", "divide", "scape", "first picking"}
)
MATS_AHEAD = timedelta(days=42)  # mats keep dry for so long: our own rule


@dataclass(frozen=True)
class ToSow:
    """A sowing to come for which mats can be made."""

    bed_id: str
    bed: str
    crop: str
    sow_on: date


def waits(step: str) -> bool:
    """True for a job that is put off when it rains."""
    return step in WANTS_DRY


def mats(sowings: Iterable[ToSow], today: date) -> list[ToSow]:
    """Sowings near enough for their mats to be made today and lie dry until then, the next one first."""
    near = [s for s in sowings if today < s.sow_on <= today + MATS_AHEAD]
    return sorted(near, key=lambda s: (s.sow_on, s.bed, s.crop))
