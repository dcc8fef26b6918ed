"""`calc calendar`: what a school's calendar file says, as it is read before anybody corrects it."""

import argparse
from datetime import timedelta
from pathlib import Path
from typing import Any

from almanaque.calc.arguments import body_of
from almanaque.commands.school.calendar_file import read_calendar
from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import
from almanaque.core.school.calendar_reading import CalendarQuestion
from almanaque.core.school.school_year import SUMMER_PROGRAMME, SchoolYear
from almanaque.data import zones
from almanaque.formats.school import ical_in


def calendar(given: argparse.Namespace) -> dict[str, Any]:
    """School years with their terms, closures, half days and feasts, what would be asked, and what is told."""
    body, name = body_of(given.file, field="file"), Path(given.file).name
    country, region = (given.country or "").upper(), (given.region or "").upper()
    zone = ical_in.said_zone(body) or zones.of(country, region)
    days = ical_in.days_named(body)
    start, end = (days[0], days[1] + timedelta(days=400)) if days else (None, None)
    read = read_calendar(body, name, zone=zone, country=country, region=region, start=start, end=end)
    try:
        years = calendar_import.assemble(read.entries)
    except BadInput:
        years = []  # what is wrong is among the questions
    left_out = calendar_import.half_days_left_out(read.entries, years)
    return {
        "years": [_year(year) for year in years],
        "questions": [_question(asked) for asked in read.questions],
        "told": [str(phrase) for phrase in read.told]
        + [f"{name}, {day.isoformat()}: no school day" for name, day in left_out],
    }


def _year(year: SchoolYear) -> dict[str, Any]:
    days = year.school_days
    return {
        "name": year.name,
        "first_day": days[0].isoformat() if days else None,
        "last_day": days[-1].isoformat() if days else None,
        "school_days": len(days),
        "terms": [_span(term) for term in year.terms if term.kind != SUMMER_PROGRAMME],
        "closures": [_span(closure) for closure in year.closures],
        "half_days": [
            {"day": half.day.isoformat(), "ends_at": f"{half.until:%H:%M}", "name": half.name}
            for half in year.half_days
        ],
        "feasts": [{"name": feast.name, "day": feast.starts.isoformat()} for feast in year.feasts],
    }


def _span(span: Any) -> dict[str, str]:
    return {"name": span.name, "starts": span.starts.isoformat(), "ends": span.ends.isoformat(), "kind": span.kind}


def _question(asked: CalendarQuestion) -> dict[str, Any]:
    return {
        "about": asked.about,
        "asks": str(asked.asks),
        "answers": [{"says": str(answer.says), "school_days": answer.school_days} for answer in asked.answers],
    }
