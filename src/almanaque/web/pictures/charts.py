"""Charts as Vega-Lite specifications, drawn to SVG on the server and kept by their content."""

import json
import threading
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from markupsafe import Markup

INK, SECOND, RULE = "#1d2b26", "#55635c", "#d9ded8"
TEAM_COLOURS = ["#1f5f4e", "#c9701a", "#4a7fae", "#8b6b4f", "#a8322a", "#55635c"]
SEASON_COLOURS = ["#b9bacb", "#4a7fae", "#1f5f4e", "#c9701a"]


CONFIG = {
    "font": "Atkinson Hyperlegible, sans-serif",
    "axis": {"labelColor": INK, "titleColor": SECOND, "gridColor": RULE, "domainColor": RULE, "tickColor": RULE,
             "labelFontSize": 13, "titleFontSize": 13, "titleFontWeight": "normal", "labelLimit": 220},
    "legend": {"labelColor": INK, "labelFontSize": 13, "symbolType": "square"},
    "view": {"stroke": None},
}  # fmt: skip


def yield_chart(rows: Sequence[dict[str, Any]], *, unit: str, description: str) -> Markup:
    """Bars by bed, one colour a season. `rows` hold bed, season, value; SVG with an accessible name."""
    spec = {
        "$schema": "https://vega.github.io/schema/vega-lite/v5.json",
        "description": description,
        "width": 620,
        "height": {"step": 10},
        "background": None,
        "data": {"values": list(rows)},
        "mark": {"type": "bar", "height": {"band": 0.86}},
        "encoding": {
            "y": {"field": "bed", "type": "nominal", "sort": None, "title": None},
            "yOffset": {"field": "season", "sort": None},
            "x": {"field": "value", "type": "quantitative", "title": unit, "axis": {"tickCount": 6}},
            "color": {
                "field": "season",
                "type": "nominal",
                "sort": None,
                "title": None,
                "scale": {"range": SEASON_COLOURS[-len({row["season"] for row in rows}) :]},
                "legend": {"orient": "top"},
            },
        },
        "config": CONFIG,
    }
    return Markup(_draw(json.dumps(spec, sort_keys=True)))  # noqa: S704 - drawn by the library from data it escapes


def height_chart(rows: Sequence[dict[str, Any]], *, unit: str, description: str) -> Markup:
    """A line for each team or bed. `rows` hold day (ISO), who, height; every line has a mark of its own besides its colour."""
    who = {"field": "who", "type": "nominal", "sort": None, "title": None}
    spec = {
        "$schema": "https://vega.github.io/schema/vega-lite/v5.json",
        "description": description,
        "width": 620,
        "height": 300,
        "background": None,
        "data": {"values": list(rows)},
        "mark": {"type": "line", "point": {"size": 90, "filled": True}, "strokeWidth": 2.5},
        "encoding": {
            "x": {"field": "day", "type": "temporal", "title": None, "axis": {"format": "%-d %b", "tickCount": 6}},
            "y": {"field": "height", "type": "quantitative", "title": unit, "scale": {"zero": True}},
            "color": {**who, "scale": {"range": TEAM_COLOURS}, "legend": {"orient": "top"}},
            "shape": {**who, "legend": {"orient": "top"}},
        },
        "config": {**CONFIG, "legend": {"labelColor": INK, "labelFontSize": 13, "symbolSize": 110}},
    }
    return Markup(_draw(json.dumps(spec, sort_keys=True)))  # noqa: S704 - drawn by the library from data it escapes


@lru_cache(maxsize=128)
def _draw(spec: str) -> str:
    import vl_convert

    svg: str = vl_convert.vegalite_to_svg(spec, vl_version="5.20")
    return svg


def warm_up(*, after_s: float = 2.0) -> None:
    """Start the drawing library in the background, a little after the first page, so that no visitor waits for it."""
    sample = [{"bed": "", "season": "", "value": 0}]
    waiting = threading.Timer(after_s, yield_chart, (sample,), {"unit": "", "description": "nothing"})
    waiting.daemon = True
    waiting.start()
