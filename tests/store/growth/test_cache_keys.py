"""What answers are kept under: change each thing they depend on in turn, and the key changes.

The fields of a planting, a bed, a group and a school are gone through whole, so that a field added later must be put into the
key or named here as one that the answer does not depend on.
"""

from collections.abc import Callable
from dataclasses import fields, replace
from datetime import date, timedelta
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import sunlight
from almanaque.commands.growth import forecasts
from almanaque.commands.kept_answers import KeptAnswers
from almanaque.commands.year import shortlist
from almanaque.core.garden.bed import Rectangle
from almanaque.core.growth import weather_record
from almanaque.core.growth.covers import COVERS, Covering
from almanaque.core.growth.weather_record import Record
from almanaque.core.place.shade import Obstacle
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.year.shortlist import Space
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.place.planting_chart import ChartEntry
from almanaque.store.school.school import Flag
from tests.database import bed_id

InSchool = tuple[Connection, Context]

# Fields that neither dates nor verdict nor jobs depend on, or that stand in the key as another thing.
OF_NO_ACCOUNT: dict[str, set[str]] = {
    "planting": {
        "id",
        "bed_id",
        "variety",
        "draft_id",
        "depends_on",
        "dates",
        "verdict",
        "findings",
        "with_others",
        "series_id",
        "theme_id",
        "crop",  # by its digest
        "cover",  # by the setting
    },
    "bed": {
        "id",
        "site_id",
        "ordinal",
        "name",
        "purpose",
        "material",
        "built_year",
        "x_mm",
        "y_mm",
        "turn_deg",
        "depth_mm",
        "version",
        "volume_l",
        "pockets",
        "light_h",
        "drip_l_h",
        "kind",
        "warmth_c",  # by the setting: indoors at its warmth
    },
    "group": {"name", "kind", "led_by", "teams"},
    "school": {
        "id",
        "name",
        "setting",
        "zone",
        "longitude",
        "theme",
        "place_name",
        "rest_years",
        "neighbours",
        "feeding",
        "hand_span_mm",
        "invasive_here",
        "currency",
        "moon",
        "water_by",
        "hose_l_min",
        "learns",  # by the corrections that it makes
        "shares_lessons",
        "bottle_l",
        "rounds_a_week",
        "mail_to",
        "grade_word",
    },
}


def other(value: Any) -> Any:
    """Something else of the same kind."""
    match value:
        case bool():
            return not value
        case int() | float():
            return value + 1
        case str():
            return f"{value}x"
        case date():
            return value + timedelta(days=1)
        case dict():
            return {**value, "emerged": date(2027, 5, 1)}
        case frozenset():
            return value | {(40, 40)}
        case tuple():
            return (*value, (1.0, 1.0))
        case list():
            return [*value, Rectangle(0, 0, 1, 1, "x")]
        case None:
            return uuid4()
    return uuid4()


def digest(context: Context, planting: Planting, bed: Bed) -> str:
    crop = context.crops[planting.crop]
    setting = forecasts.setting_of(context, planting, bed)
    return forecasts._digest(context, planting, bed, crop, setting, 0, None)


@pytest.fixture
def subject(in_school: InSchool) -> tuple[Context, Planting, Bed]:
    connection, context = in_school
    bed = garden.bed(connection, bed_id("Bed 4"))
    return context, garden.plantings(connection, bed_id=bed.id)[0], bed


def changed(value: Any, name: str) -> Any:
    given: dict[str, Any] = {
        "method": "indoors",
        "status": "lost",
        "arrangement": "rows",
        "spacing_from": "packet",
        "wanted": 7,
    }
    given |= {"in_row_mm": 99.0, "row_mm": 99.0, "sow_mm": 9.0, "edge_mm": 9.0, "per_square": 3, "units": "metric"}
    given |= {
        "ready_by": "warmth" if getattr(value, "ready_by", "") == "days" else "days",
        "closed_on": date(2027, 9, 1),
    }
    given |= {"flags": [Flag(uuid4(), "may not handle", "tomato")] if name == "flags" else []}
    return replace(
        value,
        **{name: given[name] if name in given and given[name] != getattr(value, name) else other(getattr(value, name))},
    )


def test_a_forecast_depends_on_every_field_of_its_planting_and_bed_that_is_not_named(
    subject: tuple[Context, Planting, Bed],
) -> None:
    context, planting, bed = subject
    before = digest(context, planting, bed)
    for field in fields(planting):
        found = digest(context, changed(planting, field.name), bed) if field.name != "crop" else ""
        assert (found == before) == (
            field.name in OF_NO_ACCOUNT["planting"] - {"crop", "cover"}
        ) or field.name == "cover", field.name
    for field in fields(bed):
        if field.name not in ("kind", "warmth_c"):
            found = digest(context, planting, changed(bed, field.name))
            assert (found == before) == (field.name in OF_NO_ACCOUNT["bed"]), field.name


def test_a_forecast_depends_on_the_groups_that_could_do_its_jobs(subject: tuple[Context, Planting, Bed]) -> None:
    context, planting, bed = subject
    before = digest(context, planting, bed)
    first, *others = context.groups
    for field in fields(first):
        if field.name == "slot_rows":  # its lessons are in the calendar's digest
            continue
        found = digest(replace(context, groups=[changed(first, field.name), *others]), planting, bed)
        assert (found == before) == (field.name in OF_NO_ACCOUNT["group"]), field.name


def test_a_forecast_depends_on_the_school_where_it_is_not_named(subject: tuple[Context, Planting, Bed]) -> None:
    context, planting, bed = subject
    before = digest(context, planting, bed)
    for field in fields(context.school):
        if field.name == "weather_source":  # with another source there is another record
            continue
        school = changed(context.school, field.name)
        found = digest(replace(context, school=school), planting, bed)
        assert (found == before) == (field.name in OF_NO_ACCOUNT["school"]), field.name


def test_a_forecast_depends_on_cover_crop_and_calendar(subject: tuple[Context, Planting, Bed]) -> None:
    context, planting, bed = subject
    before = digest(context, planting, bed)
    cover = next(key for key in COVERS if key != planting.cover)
    assert digest(context, replace(planting, cover=cover), bed) != before
    elsewhere = next(
        crop.key for crop in context.crops if crop.key != planting.crop and planting.method in crop.methods
    )
    assert digest(context, replace(planting, crop=elsewhere), bed) != before
    years = [replace(context.years[0], ends=context.years[0].ends + timedelta(days=1)), *context.years[1:]]
    assert replace(context, years=years).calendar_digest != context.calendar_digest


def calls(monkeypatch: pytest.MonkeyPatch, module: Any, name: str, answer: Callable[[], Any]) -> list[Any]:
    """Put a counter in the place of what is worked out."""
    made: list[Any] = []

    def counted(*arguments: Any, **named: Any) -> Any:
        made.append((arguments, named))
        return answer()

    monkeypatch.setattr(module, name, counted)
    return made


def test_hours_of_sun_are_kept_by_everything_they_are_asked_with(monkeypatch: pytest.MonkeyPatch) -> None:
    made = calls(monkeypatch, sunlight.shade, "hours_of_sun", lambda: np.zeros((1, 1)))
    kept = sunlight._KeptSun()
    wall = Obstacle(2000.0, circle_mm=(0.0, 0.0, 500.0))
    asked: dict[str, Any] = {
        "points": np.zeros((1, 2)),
        "days": (date(2027, 6, 21),),
        "obstacles": (wall,),
        "latitude": 60.0,
        "north": 0.0,
        "height": 0.0,
    }
    others: dict[str, Any] = {
        "points": np.ones((1, 2)),
        "days": (date(2027, 6, 22),),
        "obstacles": (),
        "latitude": 61.0,
        "north": 1.0,
        "height": 5.0,
    }
    kept.hours(**asked)
    kept.hours(**asked)
    assert len(made) == 1
    for number, name in enumerate(asked, start=2):
        kept.hours(**{**asked, name: others[name]})
        assert len(made) == number, name


def test_runs_are_kept_by_everything_they_are_asked_with(
    monkeypatch: pytest.MonkeyPatch, subject: tuple[Context, Planting, Bed]
) -> None:
    context, _, _ = subject
    assert context.climate is not None
    record = Record(context.climate)
    made = calls(monkeypatch, weather_record, "grow", lambda: SimpleNamespace(nbytes=1))
    asked: dict[str, Any] = {
        "crop": context.crops["radish"],
        "method": "direct",
        "ready_by": "warmth",
        "covering": None,
        "indoors_c": None,
        "quicker": 1.0,
    }
    others: dict[str, Any] = {
        "crop": context.crops["kale"],
        "method": "indoors",
        "ready_by": "packet",
        "covering": Covering("tunnel"),
        "indoors_c": 18.0,
        "quicker": 0.9,
    }
    record.runs(**asked)
    record.runs(**asked)
    assert len(made) == 1
    for number, name in enumerate(asked, start=2):
        record.runs(**{**asked, name: others[name]})
        assert len(made) == number, name
    Record(context.climate).runs(**asked)
    assert len(made) == len(asked) + 2


def test_verdicts_on_all_crops_are_kept_by_every_field_of_the_setting_and_by_the_crops(
    subject: tuple[Context, Planting, Bed],
) -> None:
    context, _, _ = subject
    assert context.climate is not None
    school, first_year = context.school, context.years[0]
    longer = [replace(first_year, ends=first_year.ends + timedelta(days=1)), *context.years[1:]]
    changed_contexts = {
        "calendar": replace(context, years=longer),
        "record": replace(context, record=Record(context.climate)),
        "units": replace(context, school=replace(school, units="metric")),
        "typed": replace(context, typed=TypedFreezes("05-01", None, None, "10-01")),
        "chart": replace(context, chart=(*context.chart, ChartEntry("okra", 5, "sow"))),
        "ready_by": replace(context, school=changed(school, "ready_by")),
        "leads": replace(context, school=replace(school, leads="all" if school.leads != "all" else "chart")),
    }
    keys = {name: other.judged_by(other.setting) for name, other in changed_contexts.items()}
    keys |= {
        "covering": context.judged_by(context.setting_for(covering=Covering("tunnel"))),
        "indoors_c": context.judged_by(context.setting_for(indoors_c=19.0)),
        "pace": context.judged_by(context.setting_for(pace=1.02)),
    }
    assert set(keys) == {field.name for field in fields(context.setting)}
    here = context.judged_by(context.setting)
    assert context.judged_by(context.setting_for()) == here
    kale = context.crops["kale"].model_copy(update={"picking_days": 3})
    vars(kale).pop("digest", None)
    other_crops = replace(context, crops=replace(context.crops, crops={**context.crops.crops, "kale": kale}))
    keys["crops"] = other_crops.judged_by(other_crops.setting)
    assert here not in keys.values()
    assert len(set(keys.values())) == len(keys)


def test_lists_of_crops_are_kept_by_their_days_and_worked_out_once(
    monkeypatch: pytest.MonkeyPatch, subject: tuple[Context, Planting, Bed]
) -> None:
    context, _, bed = subject
    months = calls(monkeypatch, shortlist.shortlist, "to_sow", list)
    calls(monkeypatch, shortlist.shortlist, "not_to_sow", list)
    ways = calls(monkeypatch, shortlist.shortlist, "judged_ways", list)
    monkeypatch.setattr(shortlist, "_months", KeptAnswers(2))
    monkeypatch.setattr(shortlist, "_ways", KeptAnswers(2))
    april, may, june = date(2027, 4, 1), date(2027, 5, 1), date(2027, 6, 1)
    space = Space("Bed 4", sun_h=[12.0] * 12)
    for number, (starts, ends) in enumerate(((april, may), (april, june), (may, june)), start=1):
        for _ in range(2):
            shortlist.to_sow(context, starts, ends, context.setting)
            assert len(months) == number
    shortlist.to_sow(context, april, may, context.setting)
    assert len(months) == 4, "only the last two are kept"
    for number, (start, cover) in enumerate(((april, None), (may, None), (may, "tunnel")), start=1):
        for _ in range(2):
            shortlist.for_space(context, bed, space, start, cover=cover)
            assert len(ways) == number
