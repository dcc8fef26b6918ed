"""Figures of the book for `./almanaque bench`: every page of it over ten years, 60 beds and 20,000 pickings."""

import statistics
import time

import httpx2
import psycopg

from almanaque.demo import load
from almanaque.host import postgres
from tests.bench_fit import row
from tests.browser.conftest import serve
from tests.database import NORTH

BEDS, YEARS, PLANTINGS, PICKINGS, ROUNDS = 60, 10, 3000, 20_000, 15
PAGES = (
    ("Harvest", "/harvest"),
    ("the book by bed", "/harvest/book"),
    ("the book by crop", "/harvest/book?by=crop"),
    ("the book by class", "/harvest/book?by=class"),
    ("the book by season", "/harvest/book?by=season"),
    ("the book of one crop", "/harvest/book?by=crop&crop=kale"),
    ("picking calendar", "/harvest/calendar?season=2025–26"),
    ("uses", "/harvest/uses"),
    ("forecast and fact", "/harvest/forecast"),
    ("what worked", "/harvest/worked"),
    ("season report", "/harvest/report?season=2025–26"),
    ("the book by bed as CSV", "/harvest/book.csv"),
)
FILL = """
INSERT INTO school_year (school_id, id, name, starts, ends)
  SELECT %(s)s, gen_random_uuid(), y || '–' || lpad(((y + 1) %% 100)::text, 2, '0'), make_date(y, 8, 28), make_date(y + 1, 8, 20)
  FROM generate_series(2024 - %(years)s + 3, 2023) y;
INSERT INTO bed (school_id, id, site_id, ordinal, name, kind, x_mm, y_mm, length_mm, width_mm, depth_mm, cell_mm)
  SELECT %(s)s, gen_random_uuid(), (SELECT id FROM site WHERE school_id = %(s)s LIMIT 1), 100 + n, 'Plot ' || n,
  'raised', n, 40000, 2438.4, 1219.2, 300, 304.8
  FROM generate_series(1, %(beds)s - 13) n;
CREATE TEMP TABLE made AS
  SELECT gen_random_uuid() AS id, n, (SELECT b.id FROM bed b WHERE b.school_id = %(s)s ORDER BY b.ordinal OFFSET n
  %% %(beds)s LIMIT 1) AS bed,
    (ARRAY['radish','lettuce','spinach','beet','carrot','pea','kale','onion','chard','turnip','tomato','bush-bean'])[1 + n %% 12] AS crop,
    make_date(2024 - %(years)s + 3 + n %% %(years)s, 9, 1) + (n * 7) %% 240 AS start
  FROM generate_series(1, %(plantings)s) n;
INSERT INTO planting (school_id, id, bed_id, crop, status, method, start_on) SELECT %(s)s, id, bed, crop,
'finished', 'direct', start FROM made;
INSERT INTO patch (school_id, planting_id, col, row) SELECT %(s)s, id, c, 0 FROM made, generate_series(0, 3) c;
INSERT INTO event (school_id, id, planting_id, kind, on_day)
  SELECT %(s)s, gen_random_uuid(), id, k.kind, start + k.after FROM made, (VALUES ('started', 0), ('first picking',
  40), ('cleared', 75)) AS k (kind, after);
INSERT INTO forecast (school_id, planting_id, depends_on, bed_from, first_pick_early, first_pick, first_pick_late,
last_pick, clear_by, verdict, plants, area_m2)
  SELECT %(s)s, id, '', start, start + 33, start + 38, start + 43, start + 60, start + 67, 'fits', 36, 0.3716 FROM made;
INSERT INTO forecast_made (school_id, planting_id, made_on, first_pick_early, first_pick, first_pick_late, last_pick)
  SELECT %(s)s, id, start, start + 33, start + 38, start + 43, start + 60 FROM made;
CREATE TEMP TABLE picked AS
  SELECT gen_random_uuid() AS id, m.id AS planting, m.start + 40 + (k * 5) %% 35 AS day, k FROM made m,
  generate_series(1, %(each)s) k LIMIT %(pickings)s;
INSERT INTO harvest (school_id, id, planting_id, picked_on, part, amount, unit, grams, estimated, low_g, high_g)
  SELECT %(s)s, id, planting, day, 'leaf', 1 + k, CASE WHEN k %% 3 = 0 THEN 'bunch' ELSE 'lb' END, CASE WHEN k %% 7
  = 0 THEN NULL ELSE 200 + 40 * k END, k %% 3 = 0,
    CASE WHEN k %% 3 = 0 AND k %% 7 <> 0 THEN 150 END, CASE WHEN k %% 3 = 0 AND k %% 7 <> 0 THEN 600 END FROM picked;
INSERT INTO use_of_harvest (school_id, harvest_id, use, share) SELECT %(s)s, id, CASE WHEN k %% 2 = 0 THEN
'kitchen' ELSE 'eaten in class' END, 1 FROM picked;
ANALYZE;
"""


def book(addresses: postgres.Addresses) -> None:
    """Each page of the book from request to answer on loopback, gzip included; the first time its chart is drawn is told apart."""
    values = {
        "s": NORTH,
        "years": YEARS,
        "beds": BEDS,
        "plantings": PLANTINGS,
        "pickings": PICKINGS,
        "each": PICKINGS // PLANTINGS + 1,
    }
    with psycopg.connect(addresses.owner) as owner:
        for statement in FILL.split(";\n"):
            if statement.strip():
                owner.execute(statement.encode(), values)
        counted = owner.execute("SELECT count(*) FROM harvest WHERE school_id = %s", [NORTH]).fetchone()
    print(f"the book: {YEARS} years, {BEDS} beds, {counted[0] if counted else 0:,} pickings")
    for base in serve(addresses):
        with httpx2.Client(base_url=base, follow_redirects=True) as client:
            token = client.get("/login").text.split('name="form_token" value="')[1].split('"')[0]
            client.post("/login", data={"form_token": token, "login": "educator", "password": load.PASSWORD})
            empty = timed_get(client, "/empty")[1]
            for name, path in PAGES:
                first, middle, worst = timed_get(client, path)
                row(
                    name,
                    middle,
                    f"worst {1000 * worst:.0f} ms, first time {1000 * first:.0f} ms; {middle / empty:.0f} times an empty page",
                )


def timed_get(client: httpx2.Client, path: str) -> tuple[float, float, float]:
    """First, median and worst [s] of some requests."""
    times = []
    for _ in range(ROUNDS + 1):
        began = time.perf_counter()
        answer = client.get(path)
        times.append(time.perf_counter() - began)
        assert answer.status_code == 200, path
    return times[0], statistics.median(times[1:]), max(times[1:])
