"""What a verdict depends on besides the crop."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.crop_runs import ReadyBy
from almanaque.core.growth.weather_record import Record
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.school.school_year import Calendar
from almanaque.core.units import Units

Leads = Literal["record", "chart", "all"]  # which of weather and local chart a day must agree with, where they differ
CHART_WORDS: dict[Method, str] = {"direct": "sow", "cloves": "sow", "indoors": "indoors", "starts": "set out"}


@dataclass(frozen=True)
class Setting:
    """What a verdict depends on besides the crop: the calendar with its lessons, and the weather record if there is one.

    `ready_by` says by which practice it is ripe, `covering` and `indoors_c` what the plants feel. Without a record, typed freeze
    dates and the local office's chart speak, more roughly: `chart` maps a crop's name in small letters and what is done
    (indoors, sow, set out) to the months for it. Beside a record the chart is a note, unless the school lets it lead: then a day
    outside its months asks for care, and the usual weeks are asked only where it has none, or where `leads` says all. `pace` is the
    share of its usual time that an annual takes there, as the bed's own first pickings taught.
    """

    calendar: Calendar
    record: Record | None
    units: Units
    typed: TypedFreezes | None = None
    chart: Mapping[tuple[str, str], frozenset[int]] = field(default_factory=dict)
    ready_by: ReadyBy = "warmth"
    leads: Leads = "record"
    covering: Covering | None = None
    indoors_c: float | None = None
    pace: float = 1.0

    @property
    def felt(self) -> Hashable:
        """What plants feel there and how fast they go: what tells one bed's answers from another's of the same school."""
        return self.covering, self.indoors_c, self.pace

    def pace_of(self, crop: Crop) -> float:
        """The share of its usual time that a crop takes there; what comes again goes by the season everywhere."""
        return 1.0 if crop.life == "perennial" else self.pace

    def days_later(self, crop: Crop, method: Method) -> int:
        """Days by which the pace of the place moves a first picking where packet days speak, by their middle; below 0 sooner."""
        least, most = crop.days[method]
        return round((least + most) / 2 * (self.pace_of(crop) - 1))

    @property
    def measured(self) -> bool:
        """True when a record with whole seasons speaks."""
        return self.record is not None and self.record.climate.seasons > 0


def chart_months(crop: Crop, method: Method, setting: Setting) -> frozenset[int] | None:
    """The months of the local office's chart for a way of starting a crop; None where it has none."""
    return setting.chart.get((crop.name.en.lower(), CHART_WORDS[method]))
