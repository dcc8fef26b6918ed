"""An invented school in a northern valley with three years of beds, jobs and pickings, and a small one in the south.

No real person, school, place, brand or variety. `brindlecombe.toml` and `tallowbank.toml` say what they hold; `load` writes it by
the same commands that the pages use.
"""

from dataclasses import asdict
from datetime import date

import psycopg

DEMO_DAY = date(2027, 4, 14)
THIS_SPRING = date(2027, 1, 1)  # what was started before has taught the dates of what is started since
LAST_WEATHER_DAY = date(2027, 8, 31)


def is_empty(owner_url: str) -> bool:
    """True until a demo has been written to its end: the logins are written last."""
    with psycopg.connect(owner_url) as connection:
        row = connection.execute("SELECT EXISTS (SELECT FROM membership)").fetchone()
        return row is None or not row[0]


def stations() -> dict[str, dict[str, object]]:
    """The simulated weather stations of the demo schools, by the name of their device: the climate each makes up, and since when."""
    from almanaque.demo import schools

    return {
        school.device: {
            "place": asdict(school.weather),
            "first_day": school.first_weather_day.isoformat(),
            "last_day": LAST_WEATHER_DAY.isoformat(),
        }
        for school in schools.ALL
    }
