"""Which fields of our forms people write in, read from the templates, so that an error page can give back what they wrote.

Hidden fields, choices, days, files and passwords are none.
"""

import re
from functools import cache
from pathlib import Path

TEMPLATES = Path(__file__).parent / "templates"
TAG = re.compile(r'<(input|textarea)\b((?:"[^"]*"|\'[^\']*\'|[^>"\'])*)>')
NAME, TYPE = re.compile(r'\bname="([^"]+)"'), re.compile(r'\btype="([^"]*)"')
MACRO = re.compile(r"\bm\.field\([^,]*,\s*'([^']+)'(.*?)\}\}", re.S)
WRITTEN_TYPES = frozenset({"text", "search", "number", "email", "url", "tel"})
OTHER_TYPE = re.compile(r"'(?:date|time|password|file|month)'")


@cache
def pattern() -> re.Pattern[str]:
    """Matches the name of a field that people write in; where a template puts a value into the name, any value."""
    names: set[str] = set()
    for path in TEMPLATES.rglob("*.html"):
        if path.name == "macros.html":
            continue
        text = path.read_text(encoding="utf-8")
        for tag, attributes in TAG.findall(text):
            name, kind = NAME.search(attributes), TYPE.search(attributes)
            if name and (tag == "textarea" or kind is None or kind[1] in WRITTEN_TYPES):
                names.add(name[1])
        names |= {name for name, rest in MACRO.findall(text) if not OTHER_TYPE.search(rest)}
    parts = (re.split(r"\{\{.*?\}\}", name) for name in sorted(names))
    # A name that is a value as a whole says nothing of what the field holds.
    return re.compile("|".join(_value(part).join(map(re.escape, part)) for part in parts if any(part)))


def _value(parts: list[str]) -> str:
    """What may stand for a value in a name: anything, but after a letter or two numbers only."""
    return ".+" if len("".join(parts)) > 2 else r"\d+"


def is_written(name: str) -> bool:
    """True for a field that people write in."""
    return pattern().fullmatch(name) is not None
