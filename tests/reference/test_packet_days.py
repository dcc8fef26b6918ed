"""Days to the first picking against the planting guides of extension services, 30 crops.

Ranges as such guides commonly print them (days from sowing in place, or from setting out where it says so), typed from memory;
no single guide is followed. The packet days of the catalogue must lie within them, and the warmth school must come near them
in the season the guides mean: sown in the middle of its usual weeks in a place with a median last freeze early in April.
"""

from datetime import date, timedelta

import pytest

from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, early_spring

CROPS = catalogue()
PLACE = Setting(CALENDAR, early_spring(), "us")
GUIDES = [
    ("radish", "direct", 22, 35),
    ("carrot", "direct", 60, 90),
    ("beet", "direct", 50, 75),
    ("chard", "direct", 45, 65),
    ("turnip", "direct", 35, 65),
    ("lettuce", "direct", 40, 70),
    ("spinach", "direct", 37, 60),
    ("kale", "direct", 50, 75),
    ("cabbage", "starts", 60, 105),
    ("broccoli", "starts", 50, 85),
    ("cauliflower", "starts", 50, 85),
    ("kohlrabi", "direct", 45, 70),
    ("pea", "direct", 55, 80),
    ("bush-bean", "direct", 45, 65),
    ("pole-bean", "direct", 55, 75),
    ("lima-bean", "direct", 65, 90),
    ("sweet-corn", "direct", 65, 100),
    ("cucumber", "direct", 48, 72),
    ("zucchini", "direct", 40, 60),
    ("pumpkin", "direct", 85, 125),
    ("winter-squash", "direct", 80, 125),
    ("melon", "starts", 65, 95),
    ("watermelon", "starts", 65, 100),
    ("tomato", "starts", 55, 90),
    ("pepper", "starts", 60, 95),
    ("eggplant", "starts", 55, 90),
    ("potato", "cloves", 70, 125),
    ("onion", "cloves", 80, 125),
    ("okra", "direct", 48, 75),
    ("sweet-potato", "starts", 90, 130),
]


@pytest.mark.parametrize(("key", "method", "least", "most"), GUIDES, ids=[g[0] for g in GUIDES])
def test_the_catalogues_packet_days_lie_within_the_guides_range(key: str, method: str, least: int, most: int) -> None:
    early, late = CROPS[key].days[method]  # type: ignore[index]
    assert least <= early <= late <= most


@pytest.mark.parametrize(("key", "method", "least", "most"), GUIDES, ids=[g[0] for g in GUIDES])
def test_the_warmth_of_a_usual_season_comes_near_the_guides_range(key: str, method: str, least: int, most: int) -> None:
    """Within the printed range widened by a quarter: a guide's range holds for a season it does not state."""
    crop = CROPS[key]
    climate = PLACE.record.climate  # type: ignore[union-attr]
    last_freeze = climate.date_of(climate.last_freeze(0.5), date(2026, 7, 1))
    assert last_freeze is not None
    weeks = next(w.weeks for w in crop.windows if w.method == method and w.anchor == "last freeze")
    start = last_freeze + timedelta(weeks=sum(weeks) / 2)
    weighed = weigh(crop, method, [start], PLACE)  # type: ignore[arg-type]
    days = int(weighed.first[0, 1]) - start.toordinal()
    assert 0.75 * least <= days <= 1.25 * most
