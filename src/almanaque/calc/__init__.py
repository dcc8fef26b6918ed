"""`almanaque calc`: the rules without server or database. Arguments in, one JSON object out; docs/calc.md has the schemas."""

import argparse
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

import almanaque.calc.words  # noqa: F401  the words of this floor's codes
from almanaque.calc import beds, growth, planning, portraits, school, seeds, water, weather
from almanaque.core.errors import BadInput
from almanaque.core.planner import plan
from almanaque.core.portrait import drawing


class _Parser(argparse.ArgumentParser):
    """Says what is wrong as one sentence instead of printing its usage."""

    def error(self, message: str) -> NoReturn:
        raise BadInput("calc.calc_call", message=message)


def answer(arguments: Sequence[str]) -> dict[str, Any]:
    """The answer to one call, ready for JSON. Raises BadInput."""
    # A number below zero starts like an option, so every value is bound to the option before it.
    given = _parser().parse_args(_bind_values(arguments))
    found: dict[str, Any] = given.run(given)
    return found


def _parser() -> _Parser:
    parser = _Parser(prog="almanaque calc", allow_abbrev=False)
    kinds = parser.add_subparsers(dest="kind", required=True, parser_class=_Parser)

    def add(name: str, run: Callable[[argparse.Namespace], dict[str, Any]], **options: dict[str, Any]) -> None:
        kind = kinds.add_parser(name, allow_abbrev=False)
        kind.set_defaults(run=run)
        for option, settings in options.items():
            kind.add_argument(f"--{option.rstrip('_').replace('_', '-')}", dest=option, **settings)

    needed: dict[str, Any] = {"required": True}
    optional: dict[str, Any] = {"default": None}
    add(
        "spacing",
        beds.in_bed,
        bed=needed,
        spacing=needed,
        method={"choices": ["squares", "rows", "staggered"], "default": "squares"},
        cell={"default": "12 in"},
        row_spacing=optional,
        edge=optional,
        keep={"action": "append", "default": None},
    )
    add("volume", beds.volume, bed=needed, depth=needed)
    add("grid", beds.marks, bed=needed, cell={"default": "12 in"})
    add("seeds", beds.seeds, plants=needed, germination=needed, survival={"default": "1"})
    add("germination", seeds.germination, sown=needed, up=needed)
    add(
        "order",
        seeds.order,
        plants={"action": "append", "required": True},
        have={"action": "append", "default": None},
        tested={"action": "append", "default": None},
    )
    add("plan", planning.season, plan={"choices": [*plan.PLANS], "default": None}, why_not={"action": "store_true"})
    kinds.choices["plan"].add_argument("file")
    add(
        "portrait",
        portraits.drawn,
        crop=needed,
        stage={"choices": [*drawing.STAGES, "emblem"], "default": "grown"},
        view={"choices": ["side", "top"], "default": "side"},
        size={"default": "96"},
        line={"action": "store_true"},
        json={"action": "store_true"},
    )
    add("calendar", school.calendar, country=optional, region=optional)
    kinds.choices["calendar"].add_argument("file")
    add("sun", beds.sunlight, lat=needed, lon={"default": "0"}, date=needed, obstacles=optional)
    add("crops", beds.crops)
    add("freeze", weather.freeze, weather=needed, lat=needed, threshold={"default": "0C"})
    add("daylength", weather.daylength, lat=needed, date=needed)
    add(
        "degree-days",
        weather.degree_days_between,
        weather=needed,
        base=needed,
        from_=needed,
        to=needed,
        interpretation={"choices": ["1", "2"], "default": "1"},
    )
    place = {
        "weather": needed,
        "calendar": needed,
        "lat": needed,
        "crop": needed,
        "method": optional,
        "cover": optional,
        "ready": {"choices": ["warmth", "packet"], "default": "warmth"},
    }
    add("fit", growth.fit_of, sow=optional, **place)
    add("latest", growth.latest, ready_by=needed, **place)
    add(
        "et0",
        weather.et0,
        method={"required": True, "choices": ["hargreaves", "penman"]},
        tmin=needed,
        tmax=needed,
        lat=needed,
        date=needed,
        elevation={"default": "0"},
        wind=optional,
        wind_height={"default": "2"},
        rhmin=optional,
        rhmax=optional,
        dewpoint=optional,
        vapour=optional,
        radiation=optional,
        sunshine=optional,
    )
    add(
        "water",
        water.week,
        area=needed,
        weather=needed,
        lat=needed,
        week=needed,
        depth={"default": "12 in"},
        school={"choices": ["inch", "use"], "default": "use"},
        kc=optional,
        crop=optional,
        planted=optional,
        method=optional,
        hose=optional,
        drip=optional,
    )
    return parser


def _bind_values(arguments: Sequence[str]) -> list[str]:
    bound: list[str] = []
    for word in arguments:
        if bound and bound[-1].startswith("--") and "=" not in bound[-1] and not word.startswith("--"):
            bound[-1] = f"{bound[-1]}={word}"
        else:
            bound.append(word)
    return bound
