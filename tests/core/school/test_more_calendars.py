"""Calendars that the rules were not written by: each was read wrong in some line at first, or right at once, and is kept as it was found.

The right answers are read from the text by eye: first and last school day, spans without school, some of the half days.
"""

from datetime import date
from pathlib import Path

import pytest

from almanaque.commands.school import calendar_file
from almanaque.core.school.calendar_import import assemble
from almanaque.core.school.school_year import SchoolYear

FOLDER = Path(__file__).parent / "more_calendars"
EVERY_WEEK = "0902 0909 1216 0106 0609"


def read(name: str, country: str) -> SchoolYear:
    reading = calendar_file.read_calendar(
        (FOLDER / name).read_bytes(),
        name,
        zone="America/New_York",
        country=country,
        start=date(2026, 1, 1),
        end=date(2028, 1, 1),
    )
    (year,) = assemble(reading.entries)
    return year


def as_written(first: date, last: date) -> str:
    return f"{first:%m%d}" if first == last else f"{first:%m%d}-{last:%m%d}"


@pytest.mark.parametrize(
    ("name", "country", "school", "closed", "half"),
    [
        ("ie.txt", "IE", "0831-0630", "1026-1030 1223-0105 0201 0218-0219 0317 0320-0404 0503", "0630 1222"),
        ("sct.txt", "GB", "0817-0630", "0812 0918-0921 1019 0215-0217 0503 0524", ""),
        (
            "us.txt",
            "US",
            "0817-0603",
            "0810-0814 0907 1022-1023 1111 1123-1127 1221-0101 0104 0118 0212-0215 0322-0326 0416 0531",
            "0925 1218 0603",
        ),
        ("de.csv", "DE", "0914-0730", "1102-1106 1118 1224-0108 0208-0212 0322-0402 0506 0507 0518-0528", ""),
        ("es.txt", "ES", "0908-0618", "1012 1102 1207-1208 1223-0107 0226-0301 0319-0329", "0601 0610 0618"),
        ("fr.txt", "FR", "0901-0702", "0831 1017-1101 1219-0103 0220-0307 0417-0502 0505-0509", ""),
        ("za.txt", "ZA", "0113-1208", "0321 0322 0326 0427 0501 0616 0809 0924", ""),
        (
            "ca.txt",
            "CA",
            "0908-0625",
            "0904 1012 1023 1120 1221-0101 0122 0215 0315-0319 0326 0329 0524 0604 0628-0629",
            "",
        ),
        ("br.txt", "BR", "0204-1215", "0208-0210 0326 0421 0527-0528 0705-0723 0907 1011-1015 1102", ""),
        ("nz.txt", "NZ", "0202-1216", "0206-0208 0326-0330 0426 0604 0607 0625 1025", ""),
        ("it.txt", "IT", "0914-0604", "1101 1102 1208 1223-0106 0208-0209 0325-0330 0602", ""),
        (
            "nl.txt",
            "NL",
            "0831-0716",
            "1002 1019-1023 1221-0101 0222-0226 0326-0329 0426-0507 0517 0607-0609",
            "1204 0716",
        ),
        ("au.txt", "AU", "0127-1216", "0125-0126 0308 0426 0531 0712 1004 1217", ""),
        ("uk.txt", "GB", "0903-0721", "0901-0902 1026-1030 0104 0215-0219 0503 0531-0604 0702", "1218 0721"),
        (
            "us5.txt",
            "US",
            "0813-0525",
            "0810-0812 0907 1016-1019 1103 1123-1127 1221-1231 0101 0104 0118 0215 0315-0319 0326",
            "0525 0925 1218",
        ),
        (
            "us6.txt",
            "US",
            "0817-0528",
            "0812-0814 0907 1012-1016 1019 1111 1123-1127 1221-0104 0118 0215 0308-0312",
            "0305 0528 0918 1009 1218",
        ),
        ("qc.txt", "CA", "0831-0622", "0826-0828 0907 0925 1012 1221-0104 0105 0301-0305 0326 0329 0524", ""),
        ("no.txt", "NO", "0817-0618", "0918 1005-1009 1119 1219-0103 0222-0226 0322-0329 0507 0517", "0618"),
        ("uk2.txt", "GB", "0903-0720", "0902 1026-1030 0104 0215-0219 0412 0503 0531-0604 0721", ""),
        ("sg.txt", "SG", "0104-1119", "0704-0705 0810 0903 1008", ""),
        ("nl2.csv", "NL", "0824-0709", "1010-1018 1113 1219-0103 0220-0228 0329 0424-0509 0517 0710-0822", "0709"),
        ("us2.txt", "US", "0901-0611", "0831 0907 1009 1125-1127 1224-0101 0118 0215 0326-0402 0531", EVERY_WEEK),
        ("ch.txt", "CH", "0810-0702", "0926-1018 1113 1223-0103 0206-0221 0410-0425 0506-0509 0517", "0702"),
        ("se.txt", "SE", "0818-0611", "0925 1026-1030 0222-0226 0329-0402 0507", ""),
        ("dk.txt", "DK", "0810-0625", "1010-1018 1223-0103 0213-0221 0320-0329 0506-0509 0517", ""),
        ("pl.txt", "PL", "0901-0625", "1014 1111 1223-0103 0106 0201-0214 0325-0330 0503 0527", ""),
        ("in.txt", "IN", "0401-0324", "0403 0516-0621 0815 1017-1021 1106-1111 1225-0103 0126 0322", ""),
        ("mx.txt", "MX", "0831-0715", "0916 0925 1030 1116 1127 1221-0106 0129 0201 0315 0322-0402 0514", ""),
        ("us3.tsv", "US", "0817-0528", "0907 1012-1013 1125-1127 1221-0101 0104 0118 0315-0319 0402", "0528 1009 1218"),
        (
            "us4.ics",
            "US",
            "0819-0528",
            "0817-0818 0907 1123-1127 1221-0101 0104 0118 0215 0405-0409",
            "0902 1216 0106 0526",
        ),
    ],
)
def test_a_calendar_from_elsewhere_is_read_right(name: str, country: str, school: str, closed: str, half: str) -> None:
    year = read(name, country)
    assert as_written(year.school_days[0], year.school_days[-1]) == school
    assert (
        " ".join(as_written(span.starts, span.ends) for span in sorted(year.closures, key=lambda s: s.starts)) == closed
    )
    found = {f"{day.day:%m%d}" for day in year.half_days}
    assert set(half.split()) <= found
    assert bool(half) == bool(found)


def test_names_lose_their_days_and_nothing_else() -> None:
    names = {
        span.name
        for name, country in (("es.txt", "ES"), ("br.txt", "BR"), ("ie.txt", "IE"))
        for span in read(name, country).closures
    }
    assert {"Vacaciones de Navidad", "Sexta-feira Santa", "Christmas break", "October mid-term break"} <= names
    assert [term.name for term in read("nz.txt", "NZ").terms] == ["Term 1", "Term 2", "Term 3", "Term 4"]
    assert [term.name for term in read("za.txt", "ZA").terms] == ["Term 1", "Term 2", "Term 3", "Term 4"]
