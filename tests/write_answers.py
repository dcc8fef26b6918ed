"""Write tests/core/answers anew: what the rules answer of many crops in five climates, for a grower to read and a test to hold.

Whoever changes a rule runs this and reads the difference line by line: each line is an answer that somebody would get.
"""

import re
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass, replace
from datetime import timedelta
from functools import cache, partial
from itertools import product
from pathlib import Path
from typing import get_args

from almanaque.core.errors import BadInput
from almanaque.core.garden import needs
from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.layout import LayoutWish, lay_out, other_readings
from almanaque.core.growth import nearest_fit
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.school_fit import Fit, judge
from almanaque.core.growth.setting import Setting
from almanaque.core.journal.sightings import Sighting, say
from almanaque.core.journal.tour import Toured, questions
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.portrait.drawing import STAGES, portrait
from almanaque.core.portrait.emblems import Emblem, emblem
from almanaque.core.portrait.picture import svg
from almanaque.core.portrait.space import View
from almanaque.core.seeds import seed_lots
from almanaque.core.units import (
    format_area,
    format_length,
    format_mass,
    format_mass_range,
    format_rain,
    format_temperature,
    format_volume,
    format_water,
    format_yield,
)
from almanaque.core.week import planting_day, seed_mats, sheet_of_sums, water, weather_alarms, weather_notes
from almanaque.core.week.planting_day import ToPlant
from almanaque.core.week.sheet_of_sums import BedCrop
from almanaque.core.week.weather_notes import OutdoorPlant, SeenDay
from almanaque.core.words import terms
from almanaque.core.words.days import short_day
from almanaque.core.year import steps
from almanaque.core.year.shortlist import Space, fits_here, to_sow
from almanaque.data import catalogue, portraits
from tests.core.school import calendar_corpus, written_cases
from tests.places import CALENDAR, D, early_spring, hard_winters, made, mild_winters

FOLDER = Path(__file__).parent / "core/answers"
CROPS = catalogue()
ASKED = [
    CROPS[key]
    for key in (
        "radish",
        "carrot",
        "sweet-potato",
        "lettuce",
        "spinach",
        "cabbage",
        "kale",
        "garlic",
        "onion",
        "pea",
        "bush-bean",
        "broad-bean",
        "pumpkin",
        "cucumber",
        "okra",
        "tomato",
        "pepper",
        "potato",
        "winter-wheat",
        "sweet-corn",
        "crimson-clover",
        "basil",
        "parsley",
        "calendula",
        "milkweed",
        "strawberry",
        "rhubarb",
        "apple",
    )
]
DAYS = (D("2026-09-14"), D("2027-03-02"), D("2027-04-20"))


def climates() -> dict[str, Callable[[], Setting]]:
    """Five made-up climates, and a place of which only freeze dates are known."""
    typed = TypedFreezes("05-12", "05-28", "09-20", "10-04", "the growers’ circle")
    return {
        "hard-winters": lambda: Setting(CALENDAR, hard_winters(), "metric"),
        "early-spring": lambda: Setting(CALENDAR, early_spring(), "us"),
        "mild-winters": lambda: Setting(CALENDAR, mild_winters(), "us"),
        "cool-coast": lambda: Setting(CALENDAR, made(mean_c=10.5, swing_c=5.5, latitude=57.0), "metric"),
        "always-warm": lambda: Setting(CALENDAR, made(mean_c=26.0, swing_c=2.0, latitude=14.0), "metric"),
        "no-record": lambda: Setting(CALENDAR, None, "metric", typed=typed),
    }


def told(judged: Fit) -> Iterator[str]:
    """A start in words: dates, verdict, findings with their fixes."""
    dates = judged.dates
    up = (
        f"up {short_day(dates.emerge_from)} – {short_day(dates.emerge_to)}, "
        if dates.emerge_from and dates.emerge_to
        else ""
    )
    yield (
        f"{judged.crop.name.en}, {terms('method')[judged.method]} {dates.start}: {judged.verdict}; in the bed {short_day(dates.bed_from)}, "
        f"{up}picking {short_day(dates.first_pick_early)} / {short_day(dates.first_pick)} / {short_day(dates.first_pick_late)} to "
        f"{dates.last_pick}, clear by {dates.clear_by}; {judged.n} of {judged.of}"
    )
    for finding in judged.findings:
        if finding.code == "caution":
            continue
        mends = "".join(f" [{fix.label}: {fix.action} {fix.value}]" for fix in finding.fixes)
        yield f"  {finding.severity} {finding.code}, {finding.subject}: {finding.message} {finding.reason} ({finding.said_by}){mends}"


def verdicts(setting: Setting) -> Iterator[str]:
    for crop in ASKED:
        for method in crop.methods:
            for day in DAYS:
                yield from told(judge(crop, method, day, setting))


def mends(setting: Setting) -> Iterator[str]:
    """The nearest changes for what misses."""
    for crop in ASKED[::3]:
        for method in crop.methods:
            judged = judge(crop, method, DAYS[2] + timedelta(days=40), setting)
            if judged.verdict == "misses":
                found = nearest_fit.mends(judged, setting, not_before=DAYS[1])
                yield f"{crop.name.en}, {terms('method')[method]}: " + "; ".join(
                    f"{m.label} ({m.action} {m.value})" for m in found
                )


def work(setting: Setting) -> Iterator[str]:
    """The steps of every crop, what it takes, and its seed."""
    for crop in CROPS:
        for method in crop.methods:
            dates = judge(crop, method, DAYS[2], setting).dates
            yield f"{crop.name.en}, {terms('method')[method]}"
            for step in steps.steps(crop, method, dates, plants=24, squares=6, units=setting.units):
                caution = f" ! {step.caution}" if step.caution else ""
                job = "" if step.job else " (no job)"
                when = f"{short_day(step.from_day)} – {short_day(step.to_day)}"
                yield f"  {when} {step.step} {step.ordinal}, {step.minutes} min{job}: {step.title}{caution}"
            for need in needs.planting(
                crop, method, 24, germination=None, sow_factor=1.5, units=setting.units, why="Bed 1"
            ):
                yield f"  needs {values(need)}"
        yield f"  seed of 2024: {values(seed_lots.life(crop, 2024, 2027))}"


def sums() -> Iterator[str]:
    grown = [
        BedCrop("Radish", along=4, per_square=16, squares=4, plants=64, apart_mm=76.2),
        BedCrop("Tomato", along=0, per_square=0, squares=8, plants=2, apart_mm=609.6),
        BedCrop("Garlic", along=2, per_square=4, squares=1, plants=4, apart_mm=152.4),
    ]
    for units, cell in (("us", 304.8), ("metric", 300.0)):
        for one in sheet_of_sums.sums(cell * 6, cell * 3, cell, 6, 3, 16, grown, units):  # type: ignore[arg-type]
            yield f"{one.question} | {one.answer} | {one.way}"


def quantities() -> Iterator[str]:
    """Each kind of quantity at its edges, in both systems."""
    lengths = (0, 0.4, 6.35, 25.4, 152.4, 304.8, 311.15, 914.4, 1371.6, 999, 1000, 12345)
    amounts = (0, 0.04, 0.3, 0.95, 0.99, 1, 3.7, 9.94, 9.96, 10, 27.4, 28.4, 99.5, 453.6, 999.6, 1000, 1234.5, 15000)
    for units in ("us", "metric"):
        yield f"{units}: " + "; ".join(
            f"{mm} mm {format_length(mm, units)}, {format_length(mm, units, feet=False)}" for mm in lengths
        )
        for name, write in (
            ("mass", format_mass),
            ("temperature", format_temperature),
            ("rain", format_rain),
            ("volume", format_volume),
            ("water", format_water),
            ("area", format_area),
            ("yield", format_yield),
        ):
            yield f"{units} {name}: " + "; ".join(f"{amount} {write(amount, units)}" for amount in amounts)
        yield f"{units} range: " + "; ".join(
            format_mass_range(low, high, units) for low, high in ((0, 0), (0, 900), (400, 1800), (900, 905), (12, 31))
        )


def layouts() -> Iterator[str]:
    """How many plants of each crop stand in twelve squares, and what the other figures would give."""
    for units, grid in (("us", grid_of(4 * 304.8, 3 * 304.8, 304.8)), ("metric", grid_of(2000, 1500, 500))):
        for crop in ASKED:
            for arrangement in terms("arrangement"):
                wish = LayoutWish(arrangement)
                try:
                    layout = lay_out(grid.cells, grid, crop, wish, units=units)
                except BadInput as error:
                    yield f"{crop.name.en}, {units}, {arrangement}: {error}"
                    continue
                others = " ".join(other_readings(grid.cells, grid, crop, wish, units=units, hand_span_mm=160))
                places = "; ".join(f"{x:.0f},{y:.0f}" for x, y in layout.positions_mm[:4])
                yield (
                    f"{crop.name.en}, {units}, {arrangement}: {layout.plants} plants, {layout.words}, {len(layout.left_over)} left over; "
                    f"{places}. {others}"
                )


def lists(setting: Setting) -> Iterator[str]:
    """What is listed for a space, and what can be sown in three weeks."""
    space = Space(
        name="Bed 1",
        sun_h=(2, 3, 4, 5, 6, 6, 6, 6, 5, 4, 3, 2),
        depth_mm=250,
        free_to=D("2027-10-01"),
        youngest=7,
        group="Birches",
        flags=[("must not eat", "strawberries"), ("may not handle", "peas")],
        narrow_mm=600,
    )
    for listed in fits_here(CROPS, DAYS[2], setting, space, setting.units):
        yield f"{listed.verdict}: {listed.crop.name.en}, {terms('method')[listed.fit.method]}. {listed.against}"
    for found in to_sow(CROPS, DAYS[2], DAYS[2] + timedelta(days=20), setting):
        yield f"{found.verdict}: {found.crop.name.en}, {terms('method')[found.method]} {found.first} to {found.last}, {found.days} days"


def tours() -> Iterator[str]:
    """What the tour asks of plantings ten, forty and eighty days after their first day, and how what was seen is said."""
    for crop in ASKED:
        for method in crop.methods:
            dates = forecast(crop, method, DAYS[2])
            for days in (10, 40, 80):
                today = DAYS[2] + timedelta(days=days)
                happened = {"started": DAYS[2]} | ({"set out": today} if method == "indoors" and days > 60 else {})
                due = steps.steps(crop, method, dates, plants=9, squares=1, units="us")
                standing = steps.as_they_stand(due, events=happened, by_hand={}, today=today, method=method)
                planting = Toured(
                    "p", crop, method, "1 square", dates, happened, [(d, f"job {d.step.step}") for d in standing]
                )
                for asked in questions(replace(planting, hot=days == 80, in_flower=days == 40), today, "us"):
                    answers = "/".join(f"{a.key}={a.label}" for a in asked.answers)
                    said = f"{asked.title} | {asked.detail} | {asked.ask} | {answers}"
                    yield f"{crop.name.en}, {method}, day {days}: {asked.code} {asked.subject} | {said}"
    seen = Sighting("s", "stage", DAYS[2], what="in flower", team="The Moles")
    for units in ("us", "metric"):
        for one in (
            seen,
            replace(seen, note="At last."),
            replace(seen, kind="height", amount=412.0),
            replace(seen, kind="height", amount=412.0, team=""),
            replace(seen, kind="count", amount=1.0),
            replace(seen, kind="count", amount=7.0),
            replace(seen, kind="flowers", amount=3.0),
            replace(seen, kind="flowers", amount=3.0, second=2.0),
            replace(seen, kind="visitors", what="bees", amount=4.0),
            replace(seen, kind="nothing new"),
            *(
                replace(seen, kind="pest", what="aphids", part=part, severity=severity, amount=amount, of_amount=of)
                for part in ("leaf", "whole plant", "")
                for severity in (None, 1, 2, 3)
                for amount, of in ((None, None), (3.0, 12.0))
            ),
            replace(seen, kind="pest", what="aphids", closed_on=DAYS[2]),
        ):
            yield f"{units}: {one.kind}: {say(one, units)}"  # type: ignore[arg-type]


def weathers() -> Iterator[str]:
    """What a week's weather means for what stands there, and what is told at once."""
    standing = [
        OutdoorPlant(CROPS[key], "Bed 1", since=DAYS[1], up=up, in_flower=flower, under_cover=cover)
        for key, up, flower, cover in (
            ("tomato", True, True, False),
            ("kale", True, False, False),
            ("lettuce", True, False, True),
            ("zucchini", True, True, False),
            ("carrot", False, False, False),
            ("apple", True, True, False),
        )
    ]
    first, known = D("2027-06-01"), set[str]()
    for low, high, rain, wind in product(
        (-6.0, -1.0, 3.0, 4.0, None), (12.0, 25.0, 36.0), (0.0, 1.0, 6.0, 45.0), (2.0, 9.0)
    ):
        days = [SeenDay(first + timedelta(days=n), low, high, rain, wind) for n in range(7)]
        told = [
            *weather_notes.notes(standing, days, "us"),
            *weather_alarms.alarms(standing, days, days[-1].day, "metric"),
        ]
        for finding in told:
            mends = "; ".join(fix.label for fix in finding.fixes)
            said = f"{finding.severity} {finding.code}, {finding.subject}: {finding.message} {finding.reason} [{mends}]"
            if said not in known:
                yield f"{low} {high} {rain} {wind}: {said}"
            known.add(said)


def lessons() -> Iterator[str]:
    """A planting day by children and squares, seed mats, and water."""
    for children, count, edge in product((4, 11, 24, 31), (2, 9, 24), (900.0, 5400.0)):
        laid = planting_day.laying_order(
            [
                ToPlant("a", "Radish", "direct", {(n % 6, n // 6): 16 for n in range(count)}, 12.0),
                ToPlant("b", "Tomato", "starts", {(9, n): 1 for n in range(count // 3 + 1)}, 300.0),
            ]
        )
        who, found = planting_day.share_out(laid, children, edge_mm=edge)
        day = planting_day.parts(found, who, squares=count, strings=count // 2, labels=3, water_minutes=count // 4)
        yield f"{children} children, {count} squares, {edge:.0f} mm: {values(who)}; {[len(s.squares) for s in found]}"
        yield "  " + "; ".join(values(part) for part in day)
        for minutes in (30, 45, 60):
            judged = planting_day.against_the_lesson(day, minutes)
            if judged:
                yield f"  {minutes}: {judged.severity} {judged.subject}: {judged.message} {judged.reason} {[f.label for f in judged.fixes]}"
    for per_square, count, germination in product((1, 2, 4, 9, 16), (1, 3), (0.5, 0.74, 0.75, 0.9)):
        yield values(seed_mats.mat(per_square, count, germination=germination, lay_on=DAYS[2]))
    for crop in ASKED:
        kc = ", ".join(f"{water.coefficient(crop, day, 90):.3f}" for day in (0, 10, 20, 45, 70, 80, 90, 120))
        yield f"{crop.name.en}: Kc {kc}"
    for litres, top, et0 in product((5, 20, 60), (0.05, 0.2), (0.0, 3.0, 7.0)):
        yield f"pot of {litres} L, {top} m², {et0} mm: {values(water.pot(litres, top, et0, 1.05))}"
    for day, trunk, rain in product(
        (D("2027-03-01"), D("2027-03-02"), D("2029-02-27"), D("2029-04-01")), (None, 25.4), (0.0, 10.0, 40.0)
    ):
        yield f"tree {day} {trunk} {rain}: {water.young_tree(DAYS[1], day, trunk_mm=trunk, rain_mm=rain):.2f}"


def values(row: object) -> str:
    """A row of the rules with its fields, as text."""
    if is_dataclass(row):
        return ", ".join(f"{one.name} {values(getattr(row, one.name))}" for one in fields(row))
    return f"{row:.4g}" if isinstance(row, float) else str(row)


def calendars() -> Iterator[str]:
    """What is read from every calendar of the corpus, with what is asked and told of it."""
    for name in calendar_corpus.NAMES:
        yield name
        yield from laid(calendar_corpus.read(name), "  ")


def laid(value: object, indent: str) -> Iterator[str]:
    """A structure in lines: a plain list or mapping in one, others an entry a line and deeper by a step."""
    pairs = list(value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ())
    for key, inner in pairs:
        begin = indent + (f"{key}:" if isinstance(value, dict) else "-")
        if isinstance(inner, dict | list) and any(isinstance(part, dict | list) for part in _parts(inner)):
            yield begin
            yield from laid(inner, f"{indent}  ")
        else:
            told = " | ".join(str(part) for part in _parts(inner)) if isinstance(inner, dict | list) else str(inner)
            yield f"{begin} {told}".rstrip()


def _parts(value: dict[str, object] | list[object]) -> list[object]:
    return list(value.values() if isinstance(value, dict) else value)


def drawings() -> Iterator[str]:
    """What plants of every build are drawn of, by stage and view: colours, and how far all points lie together from the corner.

    Whoever changes a drawing reads which plants change with it, and looks at them.
    """
    table = portraits()
    builds: dict[tuple[str, str, str, str], str] = {}
    for crop in CROPS:
        traits = table[crop.key]
        build = (traits.habit.form, traits.leaf.form, traits.flower.form, traits.fruit.form)
        if not all(any(part == other[n] for other in builds) for n, part in enumerate(build)):
            builds[build] = crop.key
    for key in builds.values():
        crop = CROPS[key]
        for stage, view in product(STAGES, get_args(View)):
            made = portrait(table[key], stage, view, height_mm=crop.height_mm, width_mm=crop.width_mm, detail=1)
            yield f"{key} {stage}, {view}: {_drawn_of(svg(made, size_px=150, name='a'))}"
        for part in get_args(Emblem):
            yield f"{key} emblem of its {part}: {_drawn_of(svg(emblem(table[key], part), size_px=24, name='a'))}"


def _drawn_of(picture: str) -> str:
    colours = Counter(re.findall(r"#[0-9a-f]{6}", picture))
    numbers = [float(number) for number in re.findall(r"-?\d+(?:\.\d+)?", re.sub(r"#[0-9a-f]{6}", "", picture))]
    told = ", ".join(f"{colour} {count}" for colour, count in sorted(colours.items()))
    return f"{told}; {len(numbers)} numbers, {sum(numbers):.1f} together, {sum(n * n for n in numbers):.0f} squared"


def makers() -> dict[str, Callable[[], Iterator[str]]]:
    """What makes the lines of each file."""
    early = cache(lambda: climates()["early-spring"]())
    return {
        **{name: partial(_of, verdicts, setting) for name, setting in climates().items()},
        "mends": lambda: mends(early()),
        "work": lambda: work(early()),
        "lists": lambda: lists(early()),
        "sums": sums,
        "quantities": quantities,
        "layouts": layouts,
        "tours": tours,
        "weathers": weathers,
        "lessons": lessons,
        "calendars": calendars,
        "small-calendars": written_cases.calendars,
        "event-titles": written_cases.titles,
        "drawings": drawings,
    }


def _of(make: Callable[[Setting], Iterator[str]], setting: Callable[[], Setting]) -> Iterator[str]:
    return make(setting())


def answer(name: str) -> str:
    """The text of one file."""
    return "\n".join(makers()[name]()) + "\n"


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    for name in makers():
        (FOLDER / f"{name}.txt").write_text(answer(name), encoding="utf-8")


if __name__ == "__main__":
    sys.exit(main())
