"""Calendar, chart and weather as tables: what is read, and the sentence for what is not."""

from datetime import date

import pytest

from almanaque.core.place import readings
from almanaque.core.school.calendar_import import assemble
from almanaque.core.school.school_year import SUMMER_PROGRAMME, HalfDay, SchoolYear, Span
from almanaque.formats import table_in
from almanaque.formats.csv_table import BYTE_ORDER_MARK
from almanaque.formats.place import planting_chart_csv, weather_csv
from almanaque.formats.school import calendar_csv
from tests.refuses import refuses

D = date.fromisoformat
CALENDAR = """kind,name,start,end
term,Autumn term,2026-08-26,2026-12-18
,Spring break,2027-03-20,2027-03-28
closed day,Valley fair,2027-05-14,
half day,"Parents' evening, all grades",2026-10-21,2026-10-21
"""


def test_a_calendar_table_is_read_with_kinds_given_or_recognised() -> None:
    found = calendar_csv.read(CALENDAR.encode(), "c.csv")
    assert [(e.kind, e.name, e.ends, e.where) for e in found] == [
        ("term", "Autumn term", D("2026-12-18"), "c.csv, line 2"),
        ("break", "Spring break", D("2027-03-28"), "c.csv, line 3"),
        ("closed day", "Valley fair", D("2027-05-14"), "c.csv, line 4"),
        ("half day", "Parents' evening, all grades", D("2026-10-21"), "c.csv, line 5"),
    ]


def test_kinds_have_other_words_and_an_unknown_one_is_told_by_the_name() -> None:
    lines = "closure,A,2027-01-01\nHoliday,B,2027-01-02\nSemester,C,2027-01-03\n?,Spring break,2027-01-04\n?,Board meeting,2027-01-05\n"
    found = calendar_csv.read(f"kind,name,start\n{lines}".encode(), "c.csv")
    assert [e.kind for e in found] == ["closed day", "closed day", "term", "break", "ignored"]


@pytest.mark.parametrize(
    "change",
    [
        lambda t: t.replace(",", ";").replace("evening;", "evening,"),
        lambda t: BYTE_ORDER_MARK + t,
        lambda t: t.replace("\n", "\r\n"),
    ],
)
def test_other_separators_and_marks_make_no_difference(change) -> None:
    assert len(calendar_csv.read(change(CALENDAR).encode(), "c.csv")) == 4


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("kind,title\n", "school.calendar_column_missing"),
        ("name,start\nBreak,2027-02-29\n", "school.entry_not_a_day"),
        ("name,start\nBreak,20 March\n", "school.entry_not_a_day"),
        ("name,start,end\nBreak,2027-03-28,2027-03-20\n", "school.entry_ends_before_start"),
        ("name,start\n ,2027-03-28\n", "school.calendar_name_missing"),
        ("name,start\n" + "Day,2027-03-28\n" * 5001, "files.too_many_lines"),
    ],
)
def test_a_calendar_table_that_cannot_be_is_refused_with_its_line(text: str, says: str) -> None:
    with refuses(says):
        calendar_csv.read(text.encode(), "c.csv")


def test_a_written_year_is_read_back_the_same() -> None:
    year = SchoolYear(
        "2026–27",
        D("2026-08-26"),
        D("2027-08-25"),
        (
            Span("Autumn term", D("2026-08-26"), D("2026-12-18"), "term"),
            Span("Garden weeks", D("2027-06-28"), D("2027-07-16"), SUMMER_PROGRAMME),
        ),
        (
            Span("=Winter break", D("2026-12-19"), D("2027-01-03"), "break"),
            Span("Staff day", D("2026-09-18"), D("2026-09-18"), "training day"),
        ),
        (),
        (Span("Soup day", D("2026-11-18"), D("2026-11-18")),),
    )
    (back,) = assemble(calendar_csv.read(calendar_csv.write(year).encode(), "c.csv"))
    assert back.terms == year.terms
    assert [(c.starts, c.ends, c.kind) for c in sorted(back.closures, key=lambda c: c.starts)] == [
        (c.starts, c.ends, c.kind) for c in sorted(year.closures, key=lambda c: c.starts)
    ]
    assert back.feasts[0].name == "Soup day"


def test_half_days_are_written_too() -> None:
    year = SchoolYear(
        "x", D("2026-08-26"), D("2027-08-24"), (), (), (HalfDay("Evening", D("2026-10-21"), calendar_csv_time()),)
    )
    assert "half day,Evening,2026-10-21" in calendar_csv.write(year)


def calendar_csv_time():
    from datetime import time

    return time(12, 0)


def test_a_chart_is_read_long_and_wide_and_written_back() -> None:
    long = planting_chart_csv.read(b"crop,month,what\nPea,3,sow\npea,Apr,sow\nKale,8,transplant\n", "o.csv")
    assert long == [("pea", 3, "sow"), ("pea", 4, "sow"), ("kale", 8, "set out")]
    wide = planting_chart_csv.read(b'Crop,Jan,Feb,March\nPea,,s,"S,I"\n', "o.csv")
    assert wide == [("pea", 2, "sow"), ("pea", 3, "sow"), ("pea", 3, "indoors")]
    assert planting_chart_csv.read(planting_chart_csv.write(long).encode(), "o.csv") == long


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("crop\npea\n", "place.chart_header"),
        ("crop,month,what\npea,13,sow\n", "place.chart_month_unknown"),
        ("crop,month,what\npea,3,boil\n", "place.chart_word_unknown"),
        ("crop,month,what\n,3,sow\n", "place.chart_crop_missing"),
        ("crop,jan\npea,\n", "place.chart_empty"),
    ],
)
def test_a_chart_that_cannot_be_is_refused_with_its_line(text: str, says: str) -> None:
    with refuses(says):
        planting_chart_csv.read(text.encode(), "o.csv")


def first(text: str, *, us: bool = False) -> readings.Reading:
    found, unread = weather_csv.split(text.encode(), "w.csv", us=us).readings()
    assert unread == []
    return found[0]


@pytest.mark.parametrize(
    ("text", "low", "high", "rain"),
    [
        ("date,tmin,tmax,precip\n2027-04-14,2.5,14,3.2\n", 2.5, 14, 3.2),
        ("Date;T_Min;T_Max;Rain (mm)\n14.04.2027;2,5;14,0;3,2\n", 2.5, 14, 3.2),
        ("DATE\tTMAX (°F)\tTMIN (°F)\tPRCP (in)\n2027/04/14\t57.2\t36.5\t0.5\n", 2.5, 14, 12.7),
        ("Year Month Day Tmin(C) Tmax(C) Prcp(mm)\n2027 4 14 2.5 14 3.2\n", 2.5, 14, 3.2),
        ("# a station\ndate,temp_min,temp_max,rainfall_in\n20270414,2.5,14,0.5\n", 2.5, 14, 12.7),
        ("date,min,max,rain\n2027-04-14T06:00,2.5,14,T\n", 2.5, 14, 0),
        ('"date","low","high","precipitation"\n"2027-04-14","2.5","14","-9999"\n', 2.5, 14, None),
        ("date,tmin,tmax\n2027-04-14,36.5,57.2\n", 2.5, 14, None),
    ],
)
def test_many_spellings_and_units_give_the_same_reading(text: str, low: float, high: float, rain: float | None) -> None:
    found = first(text)
    assert (found.day, found.tmin_c, found.tmax_c) == (D("2027-04-14"), pytest.approx(low), pytest.approx(high))
    assert found.rain_mm == (None if rain is None else pytest.approx(rain))


@pytest.mark.parametrize(
    ("text", "us", "order", "ambiguous"),
    [
        ("date,tmin,tmax\n14/04/2027,1,9\n", True, "dmy", False),
        ("date,tmin,tmax\n4/14/2027,1,9\n", False, "mdy", False),
        ("date,tmin,tmax\n4/5/2027,1,9\n", True, "mdy", True),
        ("date,tmin,tmax\n4/5/2027,1,9\n", False, "dmy", True),
        ("date,tmin,tmax\n2027-04-05,1,9\n", True, "ymd", False),
    ],
)
def test_the_order_of_a_date_is_found_or_said_to_be_open(text: str, us: bool, order: str, ambiguous: bool) -> None:
    table = weather_csv.split(text.encode(), "w.csv", us=us)
    assert (table.order, table.ambiguous) == (order, ambiguous)


def test_a_quoted_station_name_may_hold_the_separator() -> None:
    found = first('station,date,tmin,tmax\n"Mill, upper field",2027-04-14,2.5,14\n')
    assert (found.day, found.tmin_c, found.tmax_c) == (D("2027-04-14"), 2.5, 14)
    assert first('name date tmin tmax\n"Upper field" 2027-04-14  2.5  14\n').tmax_c == 14
    assert first('"station; place";date;tmin;tmax\n"a;b";14.04.2027;2,5;14,0\n').tmin_c == 2.5


def test_a_quoted_cell_may_go_over_lines_and_rows_keep_the_line_they_begin_on() -> None:
    table = table_in.read(b'a,b\n"one\ntwo",1\n\n3,4\n', "t.csv", most_bytes=100, most_rows=9, too_many="Export less.")
    assert table.rows == ((2, ("one\ntwo", "1")), (5, ("3", "4")))


@pytest.mark.parametrize(
    ("text", "order", "day"),
    [
        ("2027-04-05", "dmy", "2027-04-05"),
        ("20270405", "mdy", "2027-04-05"),
        ("5.4.2027", "dmy", "2027-04-05"),
        ("4/5/27", "mdy", "2027-04-05"),
        ("5 April 2027", "mdy", "2027-04-05"),
        ("Apr. 5, 2027", "dmy", "2027-04-05"),
        ("2027-04-05T06:00", "dmy", "2027-04-05"),
        ("2027-04-05 06:00", "dmy", "2027-04-05"),
    ],
)
def test_a_day_is_read_as_offices_and_spreadsheets_write_it(text: str, order: table_in.Order, day: str) -> None:
    assert table_in.read_day(text, order=order) == D(day)


@pytest.mark.parametrize("text", ["", "soon", "31.4.2027", "2027-13-01", "1.2", "5 Foo 2027", "1.2.3.4"])
def test_what_is_no_day_is_refused(text: str) -> None:
    with pytest.raises(ValueError):
        table_in.read_day(text, order="dmy")


def test_lines_that_cannot_be_read_are_named_and_the_others_kept() -> None:
    table = weather_csv.split(
        b"date,tmin,tmax\n2027-02-28,1,9\n2027-02-29,1,9\n2027-03-01,x,9\n2027-03-02\n", "w.csv", us=False
    )
    found, unread = table.readings()
    assert [r.day for r in found] == [D("2027-02-28"), D("2027-03-02")]
    assert unread == [("line 3", "“2027-02-29” is not a day in the calendar"), ("line 4", "“x” is not a number")]


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"tmin,tmax\n1,2\n", "place.weather_header"),
        (b"date,tmin,tmax\n", "place.no_readings"),
        (b"date,note\n2027-01-01,x\n", "place.no_value_column"),
        (b"\0\1\2", "files.not_text"),
        (b"date,tmin\n2027-01-01,\xff\n", "files.not_utf8"),
        (b"date,tmin,tmax\n" + b"2027-01-01,1,2\n" * 120_001, "files.too_many_lines"),
        (b"x" * 8_000_001, "files.file_too_large"),
    ],
)
def test_a_weather_file_that_cannot_be_is_refused(body: bytes, says: str) -> None:
    with refuses(says):
        weather_csv.split(body, "w.csv", us=False).readings()


def test_a_person_may_say_what_a_column_is_and_in_which_unit() -> None:
    table = weather_csv.split(b"date,a,b,c\n2027-04-14,36.5,57.2,1\n", "w.csv", us=False)
    said = table.mapped({1: "tmin", 2: "tmax", 3: "rain"}, {1: "F", 2: "F", 3: "in"}, None)
    found, _ = said.readings()
    assert (found[0].tmin_c, found[0].tmax_c, found[0].rain_mm) == (pytest.approx(2.5), pytest.approx(14), 25.4)


def test_two_columns_said_to_be_the_same_are_refused() -> None:
    table = weather_csv.split(b"date,tmin,min,tmax\n2027-01-01,1,3,9\n", "w.csv", us=False)
    assert [column.meaning for column in table.columns] == ["date", "tmin", "ignored", "tmax"]
    with refuses("place.two_columns_for_one"):
        table.mapped({2: "tmin"}, {}, None).readings()


def test_wind_and_soil_are_read_in_their_units() -> None:
    table = weather_csv.split(
        "date,tmin,tmax,wind (km/h),soil (°C)\n2027-04-14,1,9,36,7.5\n".encode(), "w.csv", us=False
    )
    (found,), _ = table.readings()
    assert (found.wind_ms, found.soil_c) == (pytest.approx(10), 7.5)
