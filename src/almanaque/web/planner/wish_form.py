"""The form for one wish: a crop or a kind, how much of it, for whom, for when."""

from typing import Protocol, get_args
from uuid import UUID

from almanaque.core.errors import BadInput
from almanaque.core.planner.problem import WEIGHTS, Kind, Weight, Wish
from almanaque.core.units import Units, parse_mass
from almanaque.store.planner.season_plans import WishRow
from almanaque.web import forms
from almanaque.web.request_scope import UnitOfWork

KINDS: tuple[tuple[str, str], ...] = (
    ("crop", "this crop"),
    ("quick", "something quick"),
    ("any food", "any food that fits"),
    ("flowers", "flowers"),
    ("green manure", "green manure"),
)
AMOUNTS: dict[Units, tuple[tuple[str, str], ...]] = {
    units: (
        ("squares", "squares of a foot" if units == "us" else "squares of 30 cm"),
        ("plants", "plants"),
        ("a plant each", "for each child of the class"),
        ("weight", "lb" if units == "us" else "kg"),
        ("weight a week", "lb a week" if units == "us" else "kg a week"),
        ("kinds", "kinds"),
    )
    for units in get_args(Units)
}


class SentWish(Protocol):
    """What the form sends, as it was typed."""

    crop: str
    also: str
    kind: str
    label: str
    amount: str
    unit: str
    group: str
    ready_by: str
    ready_to: str
    weight: str


def read_wish(work: UnitOfWork, sent: SentWish, plan_id: UUID, wish_id: UUID, number: int) -> WishRow:
    """A line of the list from what was typed. Raises BadInput at the field."""
    units = work.context.school.units
    kind: Kind = next((key for key in get_args(Kind) if key == sent.kind), "crop")
    crops = [key for key in dict.fromkeys((sent.crop, sent.also)) if key] if kind == "crop" else []
    for key in crops:
        if key not in work.context.crops:
            raise BadInput("planner.wish_without_crop", field="crop")
    unit = forms.one_of(sent.unit, [key for key, _ in AMOUNTS[units]], field="unit")
    weight: Weight = next((key for key in WEIGHTS if key == sent.weight), "would like")
    squares = plants = grams = kinds = None
    group_id = forms.group(sent.group, {g.id for g in work.context.groups})
    if unit == "a plant each":
        children = next((g.head_count for g in work.context.groups if g.id == group_id), 0)
        if not children:
            raise BadInput("planner.each_child_of_whom", field="group")
        plants = children * forms.whole(sent.amount or "1", field="amount", least=1, most=20, what="wished_for")
    elif unit in ("weight", "weight a week"):
        mass = parse_mass(sent.amount or "1", bare_unit="lb" if units == "us" else "kg")
        grams = max(1, round(mass))
    else:
        most = {"squares": 400, "plants": 5000, "kinds": 60}[unit]
        count = forms.whole(sent.amount or "1", field="amount", least=1, most=most, what="wished_for")
        squares, plants, kinds = (count if unit == name else None for name in ("squares", "plants", "kinds"))
    line = WishRow(
        id=wish_id,
        plan_id=plan_id,
        number=number,
        label=forms.optional_name(sent.label, field="label", most=120),
        crops=crops,
        kind=kind,
        squares=squares,
        plants=plants,
        grams=grams,
        a_week=unit == "weight a week",
        kinds=kinds,
        fill=False,
        group_id=group_id,
        bed_id=None,
        ready_by=forms.optional_day(sent.ready_by, field="ready_by"),
        ready_to=forms.optional_day(sent.ready_to, field="ready_to"),
        weight=weight,
        votes=0,
        origin="typed",
    )
    if line.a_week and not (line.ready_by and line.ready_to and len(crops) == 1):
        raise BadInput("planner.weekly_without_days", field="ready_by")
    Wish(str(wish_id), line.label, tuple(crops), kind, squares, plants, grams, None, line.ready_by, line.ready_to)
    return line
