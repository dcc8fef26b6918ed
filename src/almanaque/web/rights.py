"""Who may do what: the one place where roles become rights."""

from typing import Literal

Right = Literal["look", "tick", "note", "pick", "plan", "calendar"]

RIGHTS: dict[str, frozenset[Right]] = {
    "coordinator": frozenset({"look", "tick", "note", "pick", "plan", "calendar"}),
    "educator": frozenset({"look", "tick", "note", "pick", "plan"}),
    "helper": frozenset({"look", "tick", "note", "pick"}),
    "viewer": frozenset({"look"}),
}

WORDS: dict[Right, str] = {
    "look": "look at the garden",
    "tick": "tick off jobs",
    "note": "write notes",
    "pick": "log pickings",
    "plan": "plan beds",
    "calendar": "change the calendar",
}
