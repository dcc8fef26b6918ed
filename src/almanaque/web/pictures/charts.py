"""Charts as Vega-Lite specifications, drawn to SVG on the server and kept by their content."""

import json
import threading
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from markupsafe import Markup

from almanaque.web.view import Named

INK, SECOND, RULE = "#1d2b26", "#55635c", "#d9ded8"
TEAM_COLOURS = ["#1f5f4e", "#c9701a", "#4a7fae", "#8b6b4f", "#a8322a", "#55635c"]
SEASON_COLOURS = ["#b9bacb", "#4a7fae", "#1f5f4e", "#c9701a"]


CONFIG = {
    "font": "Atkinson Hyperlegible, sans-serif",
    "axis": {
        "labelColor": INK,
        "titleColor": SECOND,
        "gridColor": RULE,
        "domainColor": RULE,
        "tickColor": RULE,
        "labelFontSize": 13,
        "titleFontSize": 13,
        "titleFontWeight": "normal",
        "labelLimit": 220,
    },
    "legend": {"labelColor": INK, "labelFontSize": 13, "symbolType": "square"},
    "view": {"stroke": None},
}


def bars(rows: Sequence[Named], *, unit: str, description: str, seasons: Sequence[str] = ()) -> Markup:
    """Bars by name, one colour a season, with a thin line for the range of an estimate.

    `rows` hold name, season, value, and where it was estimated low and high; `seasons` is their order, else that of the rows. SVG with
    an accessible name.
    """
    seasons = list(seasons or dict.fromkeys(row["season"] for row in rows))
    place = {
        "y": {"field": "name", "type": "nominal", "sort": None, "title": None},
        "yOffset": {"field": "season", "sort": seasons},
    }
    spec = {
        **_frame(description),
        "height": {"step": 10 if len(seasons) > 1 else 18},
        "data": {"values": [dict(row) for row in rows]},
        "layer": [
            {
                "mark": {"aria": False, "type": "bar", "height": {"band": 0.86}},
                "encoding": {
                    **place,
                    "x": {"field": "value", "type": "quantitative", "title": unit, "axis": {"tickCount": 6}},
                    "color": {
                        "field": "season",
                        "type": "nominal",
                        "sort": seasons,
                        "title": None,
                        "scale": {"range": SEASON_COLOURS[-min(len(seasons), len(SEASON_COLOURS)) :]},
                        "legend": {"orient": "top"} if len(seasons) > 1 else None,
                    },
                },
            },
            {
                "mark": {"aria": False, "type": "rule", "strokeWidth": 1.5, "color": INK},
                "transform": [{"filter": "isValid(datum.low)"}],
                "encoding": {**place, "x": {"field": "low", "type": "quantitative"}, "x2": {"field": "high"}},
            },
        ],
    }
    return _markup(spec)


def calendar(rows: Sequence[Named], *, months: Sequence[str], unit: str, description: str) -> Markup:
    """A square for each crop and month with its amount written in it; darker is more. `rows` hold name, month, value, words."""
    place = {
        "y": {"field": "name", "type": "nominal", "sort": None, "title": None},
        "x": {
            "field": "month",
            "type": "ordinal",
            "sort": list(months),
            "title": None,
            "axis": {"orient": "top", "labelAngle": 0},
            "scale": {"domain": list(months)},
        },
    }
    spec = {
        **_frame(description),
        "height": {"step": 24},
        "data": {"values": [dict(row) for row in rows]},
        "layer": [
            {
                "mark": {"aria": False, "type": "rect", "stroke": "#ffffff"},
                "encoding": {
                    **place,
                    "color": {
                        "field": "value",
                        "type": "quantitative",
                        "title": unit,
                        "scale": {"range": ["#e4efe6", "#7fb49b"], "type": "sqrt"},
                        "legend": None,
                    },
                },
            },
            {
                "mark": {"aria": False, "type": "text", "fontSize": 12, "color": INK},
                "encoding": {**place, "text": {"field": "words"}},
            },
        ],
    }
    return _markup(spec)


def forecast_and_fact(rows: Sequence[Named], *, description: str) -> Markup:
    """A line for the range that was forecast and a mark for what came, in days from the forecast's middle.

    `rows` hold name, early, late, error [d], and last_early, last_late: the range on the eve of it, None where that was not kept.
    """
    y = {"field": "name", "type": "nominal", "sort": None, "title": None}
    days = {"type": "quantitative", "title": "days after the forecast (before it: below 0)"}
    spec = {
        **_frame(description),
        "height": {"step": 20},
        "data": {"values": [dict(row) for row in rows]},
        "layer": [
            {"mark": {"aria": False, "type": "rule", "color": RULE, "strokeWidth": 2}, "encoding": {"x": {"datum": 0}}},
            {
                "mark": {"aria": False, "type": "rule", "strokeWidth": 7, "color": "#b9d2c4"},
                "encoding": {"y": y, "x": {"field": "early", **days}, "x2": {"field": "late"}},
            },
            {
                "mark": {"aria": False, "type": "rule", "strokeWidth": 2, "color": INK},
                "transform": [{"filter": "isValid(datum.last_early)"}],
                "encoding": {"y": y, "x": {"field": "last_early", **days}, "x2": {"field": "last_late"}},
            },
            {
                "mark": {
                    "aria": False,
                    "type": "point",
                    "shape": "diamond",
                    "filled": True,
                    "size": 110,
                    "color": "#8f4c0c",
                },
                "encoding": {"y": y, "x": {"field": "error", **days}},
            },
        ],
    }
    return _markup(spec)


# Marks are silent: the name is the container's, and every mark stands in the table beside it.
def _frame(description: str) -> dict[str, Any]:
    return {
        "$schema": "https://vega.github.io/schema/vega-lite/v5.json",
        "description": description,
        "width": 620,
        "padding": {"left": 16, "top": 5, "right": 5, "bottom": 5},  # our type runs wider than the library measures
        "background": None,
        "config": CONFIG,
    }


def _markup(spec: dict[str, Any]) -> Markup:
    return Markup(_draw(json.dumps(spec, sort_keys=True)))  # noqa: S704 - drawn by the library from data it escapes


def height_chart(rows: Sequence[Named], *, unit: str, description: str) -> Markup:
    """A line for each team or bed. `rows` hold day (ISO), who, height; every line has a mark of its own besides its colour."""
    who = {"field": "who", "type": "nominal", "sort": None, "title": None}
    spec = {
        "$schema": "https://vega.github.io/schema/vega-lite/v5.json",
        "description": description,
        "width": 620,
        "padding": {"left": 16, "top": 5, "right": 5, "bottom": 5},  # our type runs wider than the library measures
        "height": 300,
        "background": None,
        "data": {"values": [dict(row) for row in rows]},
        "mark": {"type": "line", "point": {"size": 90, "filled": True}, "strokeWidth": 2.5},
        "encoding": {
            "x": {"field": "day", "type": "temporal", "title": None, "axis": {"format": "%-d %b", "tickCount": 6}},
            "y": {"field": "height", "type": "quantitative", "title": unit, "scale": {"zero": True}},
            "color": {**who, "scale": {"range": TEAM_COLOURS}, "legend": {"orient": "top"}},
            "shape": {**who, "legend": {"orient": "top"}},
        },
        "config": {**CONFIG, "legend": {"labelColor": INK, "labelFontSize": 13, "symbolSize": 110}},
    }
    return _markup(spec)


@lru_cache(maxsize=128)
def _draw(spec: str) -> str:
    import vl_convert

    svg: str = vl_convert.vegalite_to_svg(spec, vl_version="5.20")
    return svg


def warm_up(*, after_s: float = 30.0) -> None:
    """Start the drawing library in the background when the start is over, so that it neither delays that nor a later visitor."""
    sample = [{"name": "", "season": "", "value": 0}]
    waiting = threading.Timer(after_s, bars, (sample,), {"unit": "", "description": "nothing"})
    waiting.daemon = True
    waiting.start()
