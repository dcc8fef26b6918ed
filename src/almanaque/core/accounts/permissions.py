"""Who may do what: the one place where roles become rights."""

from typing import Literal, get_args

Right = Literal["look", "tick", "note", "pick", "plan", "calendar", "people", "pass"]
Role = Literal["coordinator", "educator", "helper", "carer", "viewer"]
ROLES: tuple[Role, ...] = get_args(Role)

_HANDS: frozenset[Right] = frozenset({"look", "tick", "note", "pick"})
RIGHTS: dict[str, frozenset[Right]] = {
    "coordinator": _HANDS | {"plan", "calendar", "people"},
    "educator": _HANDS | {"plan"},
    "helper": _HANDS,
    "carer": _HANDS,
    "viewer": frozenset({"look"}),
    "pass": frozenset({"pass"}),  # the holder of a garden pass: one page of jobs, notes and pickings
}
