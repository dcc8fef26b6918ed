"""A weather station as a program of its own: it answers over HTTP as a device would, now and then late, with gaps, or absurdly.

It stands in for the gateway of real stations. What it says of a day is always the same, faults included.
"""

import json
import random
import time
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from almanaque.standins.weather import SimulatedPlace, make

DAYS_TOLD = 7
LATE_S = 2.5
# Shares of days with a fault of each kind.
MISSING, ABSURD, FUTURE, LATE = 0.12, 0.06, 0.04, 0.08


@dataclass(frozen=True)
class SimulatedStation:
    """One station: the climate that it makes up, the first day of its life, and the last one that is made up already."""

    place: SimulatedPlace
    first_day: date
    last_day: date


def readings(device: SimulatedStation, today: date, *, faults: bool = True) -> dict[str, Any]:
    """What the device answers on a day."""
    made = _made(device, today)
    days = [_row(made, device, today - timedelta(days=n), faults) for n in range(DAYS_TOLD - 1, -1, -1)]
    chance = _chance(device, today, "answer")
    if faults and chance.random() < FUTURE:
        days.append({**days[-1], "day": (today + timedelta(days=400)).isoformat()})
    return {"device": f"hut-{device.place.seed % 1000:03}", "days": days}


def late(device: SimulatedStation, today: date) -> bool:
    """Whether it takes its time on a day."""
    return _chance(device, today, "late").random() < LATE


@lru_cache(maxsize=8)
def _made(device: SimulatedStation, today: date) -> Any:
    return make(device.place, device.first_day, max(today, device.last_day))


def _chance(device: SimulatedStation, day: date, what: str) -> random.Random:
    return random.Random(f"{device.place.seed}/{day.isoformat()}/{what}")  # noqa: S311 - made-up weather


def _row(made: Any, device: SimulatedStation, day: date, faults: bool) -> dict[str, Any]:
    at = (day - device.first_day).days
    chance = _chance(device, day, "reading")
    row: dict[str, Any] = {
        "day": day.isoformat(),
        "tmin_c": float(made.tmin_c[at]),
        "tmax_c": float(made.tmax_c[at]),
        "rain_mm": float(made.rain_mm[at]),
        "wind_ms": round(chance.gammavariate(2.0, 1.4), 1),
    }
    if faults and chance.random() < MISSING:
        row[chance.choice(("tmin_c", "tmax_c", "rain_mm", "wind_ms"))] = None
    if faults and chance.random() < ABSURD:
        field, value = chance.choice(
            (("tmax_c", 85.0), ("tmin_c", -127.0), ("rain_mm", -1.0), ("rain_mm", 6553.5), ("wind_ms", "--"))
        )
        row[field] = value
    return row


def serve(devices: dict[str, SimulatedStation], port: int, today: date) -> ThreadingHTTPServer:
    """A server on loopback that answers `/stations/<key>/readings`; `serve_forever` starts it."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            parts = self.path.split("?")[0].strip("/").split("/")
            device = (
                devices.get(parts[1]) if len(parts) == 3 and (parts[0], parts[2]) == ("stations", "readings") else None
            )
            if device is None:
                self.send_error(404)
                return
            if late(device, today):
                time.sleep(LATE_S)
            body = json.dumps(readings(device, today)).encode()
            self.send_response(200)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            """Nothing: a device keeps no log that anybody reads."""

    return ThreadingHTTPServer(("127.0.0.1", port), Handler)
