from dataclasses import replace

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.year.bloom import Bloom, Gap, blooms, findings, gaps
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()
YEAR = (D("2027-01-01"), D("2027-12-31"))


def of(crop: str, start: str, bed_to: str = "2027-12-31", *, southern: bool = False) -> list[Bloom]:
    dates = forecast(CROPS[crop], CROPS[crop].methods[0], D(start))
    return blooms(CROPS[crop], dates, *YEAR, bed_to=D(bed_to), southern=southern)


def test_a_plant_that_comes_again_flowers_in_its_months_and_half_a_year_on_in_the_south() -> None:
    assert [(b.starts, b.ends) for b in of("aster", "2026-05-01")] == [(D("2027-09-01"), D("2027-10-31"))]
    assert [(b.starts, b.ends) for b in of("aster", "2026-05-01", southern=True)] == [
        (D("2027-03-01"), D("2027-04-30"))
    ]
    assert of("aster", "2027-11-15") == []


def test_an_annual_flowers_some_days_after_it_was_sown_until_it_is_cleared() -> None:
    borage = of("borage", "2027-04-20")
    after, length = CROPS["borage"].bloom_days or (0, 0)
    assert (borage[0].starts - D("2027-04-20")).days == after
    assert (borage[0].ends - borage[0].starts).days == length
    assert of("borage", "2027-04-20", "2027-06-20")[0].ends == D("2027-06-20")
    assert of("zinnia", "2027-05-20")[0].starts > of("marigold", "2027-05-20")[0].starts
    assert of("carrot", "2027-04-20") == []


def bloom(starts: str, ends: str, *, nectar: bool = True) -> Bloom:
    return Bloom("X", D(starts), D(ends), nectar, "")


def test_gaps_are_more_than_ten_days_without_nectar_within_the_season() -> None:
    season = (D("2027-04-01"), D("2027-10-31"))
    found = gaps(
        [
            bloom("2027-05-01", "2027-06-10"),
            bloom("2027-06-15", "2027-07-31"),
            bloom("2027-07-01", "2027-09-01", nectar=False),
        ],
        *season,
    )
    assert found == [Gap(D("2027-04-01"), D("2027-04-30")), Gap(D("2027-08-01"), D("2027-10-31"))]
    assert gaps([bloom("2027-01-01", "2027-12-31")], *season) == []
    assert gaps([], *season) == [Gap(*season)]


def test_hosts_and_nectar_are_wanted_together() -> None:
    season = (D("2027-04-01"), D("2027-10-31"))
    always = [bloom("2027-01-01", "2027-12-31")]
    assert [f.code for f in findings(always, [("Milkweed", "monarchs")], *season)] == []
    assert [f.code for f in findings(always, [], *season)] == ["no_host"]
    alone = findings([replace(always[0], nectar=False)], [("Dill", "swallowtails")], *season)
    assert {f.code for f in alone} == {"bloom_gap", "no_nectar"}
