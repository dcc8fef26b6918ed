"""Files that went wrong: calendars, tables, maps, bundles and photos with bytes turned, cut, doubled and mixed, sent as people send them.

Figures: files, faults of the server, files that changed something without being confirmed, and whether the processes are still the
same ones.
"""

import collections
import io
import json
import random
import time
from uuid import uuid4

import httpx2
from PIL import Image

from almanaque.host.postgres import Addresses
from tests.campaign.clients import asked, log_in
from tests.campaign.server import Server, demo, query
from tests.database import NORTH

CALENDAR = "\r\n".join(
    [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:x",
        *(
            line
            for n in range(12)
            for line in (
                "BEGIN:VEVENT",
                f"UID:{n}",
                f"DTSTART;VALUE=DATE:2027{n + 1:02}01",
                f"DTEND;VALUE=DATE:2027{n + 1:02}09",
                "RRULE:FREQ=YEARLY;COUNT=3",
                f"SUMMARY:Holiday {n}",
                "END:VEVENT",
            )
        ),
        "END:VCALENDAR",
        "",
    ]
).encode()
WEATHER = ("day,tmin,tmax,rain\n" + "".join(f"2026-05-{n:02},{n}.5,{n + 9}.5,{n % 3}\n" for n in range(1, 29))).encode()
CHART = b"crop,month,what\nradish,4,sow\npea,3,sow\nkale,6,set out\n"
PAST = b"day,bed,crop,amount,unit\n2025-06-01,Bed 1,radish,40,count\n2025-06-08,Bed 2,pea,1.5,kg\n"


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    chance = random.Random(21)
    answers: collections.Counter[int] = collections.Counter()
    faults: list[str] = []
    files = 0
    with Server(addresses) as server, httpx2.Client(base_url=server.base, timeout=120) as client:
        token = log_in(client, "coordinator")
        seeds = _seeds(client)
        snapshot = client.get("/field/snapshot").json()
        fields = {"form_token": token, "what": "pickings", "source": "Fuzz", "noted_on": "2027-04-14"}
        fields |= {
            "account": snapshot["account"]["id"],
            "school": snapshot["school"]["id"],
            "noted_at": "2027-04-14T09:00:00Z",
        }
        before, running = _kept(addresses), server.children("web")
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            name, path, body = chance.choice(seeds)
            wrong = _wrong(body, chance, [one for _, _, one in seeds])
            sent = {"data": {**fields, "id": str(uuid4())}, "files": {"file": (name, wrong, "text/plain")}}
            answer = asked(client, "POST", path, **sent)
            files += 1
            answers[answer.status_code if answer is not None else 0] += 1
            if answer is None or answer.status_code == 500:
                faults.append(f"{path} {wrong[:60]!r}")
        same = server.children("web") == running
    changed = [name for name, count in _kept(addresses).items() if count != before[name]]
    return (
        f"fuzz: {files} broken files in {seconds:.0f} s ({', '.join(f'{n} x {s}' for s, n in sorted(answers.items()))}); {len(faults)} faults "
        f"{faults[:2]}; {len(changed)} tables changed without a confirmation {changed}; the web processes are "
        f"{'the same' if same else 'others'}"
    )


def _seeds(client: httpx2.Client) -> list[tuple[str, str, bytes]]:
    """Good files with the address that takes them."""
    photo = io.BytesIO()
    Image.effect_noise((400, 300), 50).convert("RGB").save(photo, "JPEG")
    found = [
        ("school.ics", "/school/import", CALENDAR),
        ("weather.csv", "/school/weather/import", WEATHER),
        ("chart.csv", "/school/chart/import", CHART),
        ("past.csv", "/school/formats/past", PAST),
        ("leaf.jpg", "/field/photos", photo.getvalue()),
        ("bundle.json", "/school/formats/school", client.get("/school/formats/school.json?photos=no").content),
    ]
    for name, path in (("map.geojson", "/garden/map.geojson"), ("map.svg", "/garden/map.svg")):
        answer = client.get(path)
        if answer.status_code == 200:
            found.append((name, "/garden/map/import", answer.content))
    return found


def _wrong(body: bytes, chance: random.Random, others: list[bytes]) -> bytes:
    """A file that is nearly the one given."""
    found = bytearray(body)
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(max(1, len(found)))
        length = chance.choice([1, 4, 40, 400])
        how = chance.choice(["turn", "cut", "gap", "repeat", "digits", "mix", "nest"])
        if how == "turn" and found:
            found[min(at, len(found) - 1)] = chance.randrange(256)
        elif how == "cut":
            del found[at:]
        elif how == "gap":
            del found[at : at + length]
        elif how == "repeat":
            found[at:at] = bytes(found[at : at + length]) * chance.choice([2, 50])
        elif how == "digits":
            found[at:at] = b"9" * length
        elif how == "mix":
            other = chance.choice(others)
            start = chance.randrange(max(1, len(other)))
            found[at:at] = other[start : start + length]
        else:
            found[at:at] = json.dumps([]).encode()[:1] * length
    return bytes(found[:1_500_000])


def _kept(addresses: Addresses) -> dict[str, int]:
    """Rows of what a file may change only when somebody confirms it. A map is taken at once, and so is a photo."""
    tables = ("school_year", "closure", "weather_day", "planting_chart", "harvest", "planting", "journal_entry")
    return {
        name: int(query(addresses, f"SELECT count(*) FROM {name} WHERE school_id = %s", NORTH)[0][0]) for name in tables
    }
