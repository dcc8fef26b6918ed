"""The form beside the bed sheet: what it sends, what that asks for, and what its preview says before anything is painted."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal
from uuid import UUID, uuid4

from pydantic import BaseModel

from almanaque.commands.garden import bed_findings, plans_then
from almanaque.core.crops.crop import METHODS, Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.garden import layout
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.layout import Arrangement, Follows, LayoutWish
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.units import format_length
from almanaque.core.words import terms
from almanaque.store.errors import NotFound
from almanaque.store.garden import drafts, garden, plantings_then
from almanaque.store.garden.drafts import Draft
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import forms
from almanaque.web.garden import bed_picture, sheet_parts
from almanaque.web.garden.bed_picture import PlantingPicture
from almanaque.web.garden.sheet_parts import Preview
from almanaque.web.request_scope import UnitOfWork, parse_day
from almanaque.web.view import View

Command = Literal["pencil", "ink", "rub", "to-ink", "to-pencil", "undo", "redo", "move", "lay"]
Show = Literal["plants", "looks", "colour", "sun"]
Number = Literal["room", "starts", "class"]
FIRST_CROP = "radish"

Then = Literal["stood", "thought"]  # how a day that has passed is shown


class SheetForm(BaseModel):
    """What the form beside the sheet sends, as it was typed."""

    command: Command = "pencil"
    squares: str = ""
    crop: str = ""
    method: str = ""
    start_on: str = ""
    per_square: str = ""
    arrangement: Arrangement = "squares"
    follows: Follows = "count"
    in_row: str = ""
    row: str = ""
    sow: str = ""
    edge: str = ""
    number: Number = "room"
    wanted: str = ""
    group: str = ""
    with_others: str = ""
    draft: str = ""
    show: Show = "plants"
    by: str = ""
    version: int | None = None


def read_wish(work: UnitOfWork, form: SheetForm, crop: Crop) -> tuple[LayoutWish, UUID | None, str]:
    """How it is to stand, for which group, and in words for whom where the number comes from a class."""
    units = work.context.school.units

    def distance(text: str, field: str) -> float | None:
        return forms.length(text, units, field=field) if text.strip() else None

    wanted, group_id, per_head = None, None, ""
    if form.group.strip():
        group = next((g for g in work.context.groups_on(work.day) if str(g.id) == form.group), None)
        if group is None:
            raise BadInput("garden.no_such_group", field="group")
        group_id = group.id
        if form.number == "class":
            wanted, per_head = (
                group.head_count,
                f"{group.head_count} children of {work.context.group_names(work.day)[str(group.id)]}",
            )
    elif form.number == "class":
        raise BadInput("garden.class_for_one_each", field="group")
    if form.number == "starts":
        wanted = forms.whole(form.wanted, field="wanted", least=1, most=20_000, what="starts")
    in_row = None
    if form.follows == "packet":
        in_row = distance(form.in_row, "in_row")
    elif form.follows == "hand":
        spans = forms.number(form.in_row, field="in_row", what="spans")
        in_row = layout.by_hand(work.context.school.hand_span_mm, spans)
    wish = LayoutWish(
        form.arrangement,
        form.follows,
        _count(form.per_square),
        in_row,
        distance(form.row, "row"),
        distance(form.sow, "sow") if form.follows == "packet" else None,
        distance(form.edge, "edge"),
        wanted,
    )
    return wish, group_id, per_head


def on_table(work: UnitOfWork, text: str) -> Draft:
    """The draft on the table: the one in the address, or the first open one."""
    try:
        return drafts.draft(work.connection, forms.optional_id(text))
    except (NotFound, BadInput):
        return drafts.draft(work.connection, None)


def on_sheet(work: UnitOfWork, bed: Bed, draft: Draft) -> list[PlantingPicture]:
    """What a bed's sheet shows from the ribbon's day on, with the pencil of this draft."""
    return _shown(work, bed, draft, garden.plantings(work.connection, bed_id=bed.id, since=work.day), work.today)


def on_past_sheet(work: UnitOfWork, bed: Bed, draft: Draft, then: Then) -> list[PlantingPicture]:
    """What the sheet of a day that has passed shows: what stood there, or what was planned as it was known then."""
    if then == "thought":
        present = plans_then.as_thought(work.connection, work.context, [bed], day=work.day, today=work.today)
    else:
        stood = garden.plantings(work.connection, bed_id=bed.id, since=work.day, until=work.day)
        stood = plantings_then.as_they_stood(stood, work.day, work.today)
        present = [replace(planting, findings=()) for planting in stood]  # a verdict is one of a plan
    return _shown(work, bed, draft, present, work.day)


def _shown(work: UnitOfWork, bed: Bed, draft: Draft, present: Sequence[Planting], as_of: date) -> list[PlantingPicture]:
    return bed_picture.shown_on(
        present,
        bed,
        work.context.crops,
        day=work.day,
        today=as_of,
        draft_id=draft.id,
        units=work.context.school.units,
    )


def judge_sheet(
    work: UnitOfWork, bed: Bed, shown: list[PlantingPicture]
) -> tuple[bed_findings.Facts, dict[UUID, list[Finding]]]:
    """The facts of a bed, and what they say of the plantings on its sheet; of a past day, what they said then."""
    plantings, laid = [item.planting for item in shown], {item.planting.id: item.layout for item in shown}
    as_of = min(work.day, work.today)
    return bed_findings.of_sheet(work.connection, work.context, bed, plantings, laid, today=as_of)


@dataclass(frozen=True)
class SheetChoicesView(View):
    """Filled by `choices`, read by its template."""

    bed: Bed
    crop: Crop
    method: str
    methods: list[tuple[Method, str]]
    start_on: str
    form: SheetForm
    squares: str
    preview: Preview | None
    problem: str
    arrangements: list[tuple[str, str]]
    follow_choices: list[tuple[str, str]]
    group_choices: list[tuple[str, str]]
    catalogue_in_row: str
    catalogue_row: str


def choices(work: UnitOfWork, bed: Bed, form: SheetForm) -> SheetChoicesView:
    """The form's fields that follow from the crop, with the preview or what stands in its way."""
    chosen = work.context.crops[form.crop or FIRST_CROP]
    way = read_method(form.method) if form.method in chosen.methods else chosen.methods[0]
    first = max(work.today, work.day)
    problem, shown = "", None
    try:
        day = parse_day(form.start_on, field="start_on") if form.start_on else first
        wish, _, per_head = read_wish(work, form, chosen)
        shown = sheet_parts.preview(
            work.context,
            bed,
            chosen,
            method=way,
            start_on=day,
            squares=form.squares,
            wish=wish,
            per_head=per_head,
            today=work.today,
            speaks=lambda cells, dates: _against(work, bed, form, chosen, way, wish, cells, dates),
        )
    except BadInput as error:
        day, problem = first, error.message
    units, names = work.context.school.units, work.context.group_names(work.day)
    return SheetChoicesView(
        bed=bed,
        crop=chosen,
        method=way,
        methods=sheet_parts.method_choices(chosen),
        start_on=day.isoformat(),
        form=form,
        squares=form.squares,
        preview=shown,
        problem=problem,
        arrangements=list(terms("arrangement").items()),
        follow_choices=list(terms("follows").items()),
        group_choices=[("", "nobody by name")]
        + [(str(g.id), f"{names[str(g.id)]}, {g.head_count}") for g in work.context.groups_on(work.day)],
        catalogue_in_row=format_length(chosen.in_row_mm, units, feet=False),
        catalogue_row=format_length(chosen.row_mm, units, feet=False),
    )


def _against(
    work: UnitOfWork,
    bed: Bed,
    form: SheetForm,
    crop: Crop,
    way: Method,
    wish: LayoutWish,
    cells: frozenset[Cell],
    dates: GrowthDates,
) -> list[Finding]:
    """What the rules of the bed would say of what is in the form, before it is painted."""
    table = on_table(work, form.draft)
    shown = on_sheet(work, bed, table)
    plan = Planting(
        uuid4(),
        bed.id,
        crop.key,
        "",
        "pencilled",
        table.id,
        way,
        dates.start,
        wish.per_square,
        None,
        cells,
        {},
        "",
        dates,
        None,
        (),
        wish.arrangement,
        wish.follows,
        wish.in_row_mm,
        wish.row_mm,
        wish.sow_mm,
        wish.edge_mm,
        wish.wanted,
        bool(form.with_others),
    )
    return bed_findings.judge_wish(
        work.connection, work.context, bed, plan, [item.planting for item in shown], today=work.today
    )


def read_method(text: str) -> Method:
    found = next((method for method in METHODS if method == text), None)
    if found is None:
        raise BadInput("garden.method_missing", field="method")
    return found


def read_offset(text: str) -> tuple[int, int]:
    """`2,-1`: two squares to the right and one up."""
    try:
        columns, rows = (int(part) for part in text.split(","))
    except ValueError:
        raise BadInput("garden.move_form", field="by") from None
    return columns, rows


def _count(text: str) -> int | None:
    if not text.strip():
        return None
    return layout.own_count(text.strip())
