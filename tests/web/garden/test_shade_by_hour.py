"""The shade of a day, half hour by half hour: as much as the hours of sun on the map leave, and none at night."""

import re
from datetime import date

import pytest
from fastapi.testclient import TestClient

from almanaque.web.garden.shade_by_hour import ShadeDay
from tests.database import bed_id
from tests.web.pages import open_page

JUNE, DECEMBER = "2027-06-08", "2026-12-15"


def shade_of(client: TestClient, day: str) -> ShadeDay:
    answer = client.get(f"/garden/shade.json?day={day}")
    assert answer.status_code == 200
    return ShadeDay.model_validate(answer.json())


def test_the_day_has_its_half_hours_and_its_sun_stands_highest_about_noon(reader: TestClient) -> None:
    june, december = shade_of(reader, JUNE), shade_of(reader, DECEMBER)
    assert june.day == date.fromisoformat(JUNE)
    assert len(june.steps) > len(december.steps) > 10
    highest = max(june.steps, key=lambda step: step.altitude)
    assert 11.5 <= highest.clock <= 14.5
    assert all(step.altitude > 0 and 0 <= step.azimuth < 360 for step in june.steps)
    clocks = [step.clock for step in june.steps]
    assert clocks == sorted(clocks)
    for step in june.steps:
        for key, many in step.beds.items():
            assert 0 <= many <= june.beds[key][1]
        assert all(re.fullmatch(r"(M-?\d+ -?\d+(L-?\d+ -?\d+)+Z)*", path) for path in step.shade.values())


@pytest.mark.parametrize("name", ["Bed 2", "Bed 4", "Bed 8"])
def test_what_is_not_in_shade_adds_up_to_the_hours_of_sun(reader: TestClient, name: str) -> None:
    """The same shade counted in two ways: by half hours here, by ten minutes on the bed's own sheet."""
    bed, found = str(bed_id(name)), shade_of(reader, JUNE)
    squares = found.beds[bed][1]
    hours = sum((squares - step.beds[bed]) / squares for step in found.steps) * 0.5
    page = open_page(reader, f"/garden?show=sun&day={JUNE}&bed={bed}")
    shown = re.search(
        rf"{name} <[^>]*>(?:<[^>]*>)?([\d.]+) h|{name}[^<]*</tspan>\s*<tspan[^>]*>\s*([\d.]+) h", page.html
    )
    assert shown is not None
    told = float(shown[1] or shown[2])
    assert hours == pytest.approx(told, abs=1.0)  # sun under 3 degrees is left out here


def test_the_map_of_the_sun_has_a_handle_for_the_hour(reader: TestClient) -> None:
    page = open_page(reader, "/garden?show=sun")
    assert 'id="shade-hours"' in page.html
    assert 'id="shade-hours"' not in open_page(reader, "/garden").html
