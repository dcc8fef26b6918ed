"""Tallowbank School: invented, southern, metric; its school year runs from February to December."""

from datetime import date, time

from almanaque.core.school.classes import Grades
from almanaque.core.school.school_year import HalfDay, Span
from almanaque.demo.shapes import DemoBed, DemoCrop, DemoFeature, DemoGroup, DemoSchool, Note, Year
from almanaque.standins.weather import SimulatedPlace


def _span(name: str, starts: str, ends: str) -> Span:
    return Span(name, date.fromisoformat(starts), date.fromisoformat(ends))


YEARS = (
    Year(
        "2026",
        date(2026, 2, 3),
        date(2027, 2, 1),
        (
            _span("Term 1", "2026-02-03", "2026-04-10"),
            _span("Term 2", "2026-04-27", "2026-07-03"),
            _span("Term 3", "2026-07-20", "2026-09-25"),
            _span("Term 4", "2026-10-12", "2026-12-16"),
        ),
        (
            _span("Autumn break", "2026-04-11", "2026-04-26"),
            _span("Winter break", "2026-07-04", "2026-07-19"),
            _span("Spring break", "2026-09-26", "2026-10-11"),
        ),
    ),
    Year(
        "2027",
        date(2027, 2, 2),
        date(2028, 1, 31),
        (
            _span("Term 1", "2027-02-02", "2027-04-09"),
            _span("Term 2", "2027-04-26", "2027-07-02"),
            _span("Term 3", "2027-07-19", "2027-09-24"),
            _span("Term 4", "2027-10-11", "2027-12-15"),
        ),
        (
            _span("Autumn break", "2027-04-10", "2027-04-25"),
            _span("Winter break", "2027-07-03", "2027-07-18"),
            _span("Spring break", "2027-09-25", "2027-10-10"),
        ),
        (_span("Pumpkin day", "2027-06-18", "2027-06-18"),),
        (HalfDay("Last day before winter", date(2027, 7, 2), time(12, 0)),),
    ),
)

SCHOOL = DemoSchool(
    name="Tallowbank School",
    setting="Marrin Shore · Years 1 to 6",
    zone="Pacific/Auckland",
    latitude=-41.6,
    longitude=173.2,
    units="metric",
    grades=Grades(5, "Year", 1),
    place_name="Marrin Shore",
    theme="Winter greens",
    water_by="use",
    hose_l_min=18.0,
    weather=SimulatedPlace(
        seed=8842, mean_c=13.6, swing_c=5.6, daily_range_c=9.0, warmest_day_of_year=25, wet_share=0.36, rain_mm=9.0
    ),
    site_size="16 m x 10 m",
    years=YEARS,
    groups=(
        DemoGroup("Terns", 2024, 26, ((1, time(10, 0), 45),)),
        DemoGroup("Gannets", 2022, 28, ((3, time(11, 30), 45),)),
    ),
    features=(
        DemoFeature("building", "Hall", "1 m x 0.5 m", "6 m x 1.5 m"),
        DemoFeature("tap", "Tap", "12 m x 8 m", "30 cm x 30 cm"),
    ),
    beds=(
        DemoBed(
            "Bed A",
            "Greens",
            "raised",
            "2.4 m x 1.2 m",
            "30 cm",
            "2 m x 4 m",
            "recycled boards",
            2022,
            "30 cm",
            "Terns",
        ),
        DemoBed(
            "Bed B",
            "Roots",
            "raised",
            "1.8 m x 90 cm",
            "30 cm",
            "7 m x 4 m",
            "recycled boards",
            2022,
            "30 cm",
            "Gannets",
        ),
    ),
    plantings=(
        DemoCrop(
            "Bed A",
            "lettuce",
            "starts",
            date(2026, 9, 8),
            "A1-D2",
            cleared=date(2026, 11, 27),
            pickings=((date(2026, 10, 22), "1.6", "kg", "eaten in class"),),
        ),
        DemoCrop(
            "Bed A",
            "chard",
            "starts",
            date(2027, 2, 9),
            "A1-D4",
            pickings=((date(2027, 3, 25), "2.2", "kg", "kitchen"),),
        ),
        DemoCrop("Bed B", "carrot", "direct", date(2027, 2, 16), "A1-C3"),
        DemoCrop("Bed B", "garlic", "cloves", date(2027, 5, 4), "D1-F3", status="planned"),
    ),
    notes=(Note(date(2027, 4, 8), "Bed A", "Chard is knee-high. Carers water on Tuesdays in the break."),),
    device="tallowbank-shed",
)
