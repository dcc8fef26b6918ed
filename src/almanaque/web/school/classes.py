"""School: classes that move up by themselves, and groups that do not: their lessons, flags and teams."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Literal, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.core.school import classes
from almanaque.core.school.classes import FLAG_KINDS, GROUP_KINDS, GroupKind, check_slot_days
from almanaque.core.school.school_year import WEEKDAYS, Slot
from almanaque.store import errors, queue
from almanaque.store.school import school as store
from almanaque.store.school.school import Group
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Change = Annotated[RequestScope, Depends(may("calendar"))]
MOST_CHILDREN = 500


@dataclass(frozen=True)
class SlotView:
    id: str
    words: str


@dataclass(frozen=True)
class GroupView:
    """A group as the list shows it; `when` says since when or until when it is here, when that is not now."""

    id: str
    label: str
    name: str
    facts: str
    when: str
    slots: list[SlotView]
    flags: list[tuple[str, str]]
    teams: list[tuple[str, str]]


@router.get("/school/groups")
def groups(scope: Look, open: str = "") -> Response:
    with scope.open() as work:
        return _page(work, open)


class ClassForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    kind: str = "class"
    grade: str = ""
    entry_year: str = ""
    head_count: str = ""
    led_by: str = ""
    closed_on: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/school/groups")
def save(scope: Change, form: Annotated[ClassForm, Form()]) -> Response:
    """Add, change or delete a group. A class says its grade now, or its year of entry."""
    with scope.open() as work:
        group_id = forms.row_id(form.id)
        if form.action == "delete":
            store.delete_group(work.connection, group_id)
        else:
            known = next((g for g in work.context.groups if g.id == group_id), None)
            chosen = cast(GroupKind, forms.one_of(form.kind, GROUP_KINDS, field="kind"))
            entered = _entry_year(work, form.grade, form.entry_year) if chosen == "class" else None
            new = Group(
                group_id,
                forms.name(form.name, what="name_of_class"),
                chosen,
                entered,
                forms.whole(form.head_count, field="head_count", least=1, most=MOST_CHILDREN, what="children"),
                form.led_by.strip(),
                forms.optional_day(form.closed_on, field="closed_on"),
                [],
                [],
                [],
            )
            store.save_group(work.connection, work.context.school.id, replace(known, **_plain(new)) if known else new)
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/groups", **({} if form.action == "delete" else {"open": str(group_id)}))


@router.post("/school/groups/arriving")
def arriving(
    scope: Change,
    year: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    head_count: Annotated[str, Form()] = "",
) -> Response:
    """Add the class that enters in a school year, with the lessons of the class that entered before it."""
    with scope.open() as work:
        entered = forms.whole(year, field="year", least=1950, most=2150, what="year_of_entry")
        new_id = uuid4()
        heads = forms.whole(head_count, field="head_count", least=1, most=MOST_CHILDREN, what="children")
        new = Group(new_id, forms.name(name), "class", entered, heads, "", None, [], [], [])
        store.save_group(work.connection, work.context.school.id, new)
        before = next((g for g in work.context.groups if g.entry_year == entered - 1), None)
        for slot in before.slots if before else []:
            store.save_slot(work.connection, work.context.school.id, uuid4(), replace(slot, group_id=str(new_id)))
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/groups", open=str(new_id))


class SlotForm(BaseModel):
    """What the form sends, as it was typed."""

    weekday: str = ""
    starts_at: str = ""
    minutes: str = ""
    from_day: str = ""
    to_day: str = ""
    held: str = "terms"

    def read(self, group: Group) -> Slot:
        """A weekly lesson of the group. Raises BadInput by field."""
        held = forms.one_of(self.held, ("terms", "programme", "both"), field="held")
        first = forms.optional_day(self.from_day, field="from_day")
        last = forms.optional_day(self.to_day, field="to_day")
        check_slot_days(first, last)
        return Slot(
            str(group.id),
            forms.whole(self.weekday, field="weekday", least=0, most=6, what="weekday"),
            forms.clock_time(self.starts_at, field="starts_at"),
            forms.whole(self.minutes, field="minutes", least=5, most=480, what="minutes_of_lesson"),
            first,
            last,
            held != "programme",
            held != "terms",
        )


@router.post("/school/groups/{group_id}/slots")
def save_slot(scope: Change, group_id: UUID, form: Annotated[SlotForm, Form()]) -> Response:
    """Add a weekly lesson."""
    with scope.open() as work:
        group = _group(work, group_id)
        store.save_slot(work.connection, work.context.school.id, uuid4(), form.read(group))
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/groups", open=str(group_id))


@router.post("/school/groups/{group_id}/flags")
def save_flag(
    scope: Change, group_id: UUID, kind: Annotated[str, Form()] = "", what: Annotated[str, Form()] = ""
) -> Response:
    """Note what the group may not handle, or what someone in it must not touch or eat."""
    with scope.open() as work:
        _group(work, group_id)
        kind = forms.one_of(kind, FLAG_KINDS, field="kind")
        thing = forms.name(what, field="what", what="flag", most=60)
        store.save_flag(work.connection, work.context.school.id, group_id, flag_id=uuid4(), kind=kind, what=thing)
        return frame.go(work, "/school/groups", open=str(group_id))


@router.post("/school/groups/{group_id}/teams")
def save_team(scope: Change, group_id: UUID, name: Annotated[str, Form()] = "") -> Response:
    with scope.open() as work:
        _group(work, group_id)
        made_up = forms.name(name, what="name_of_team", most=60)
        store.save_team(work.connection, work.context.school.id, group_id, team_id=uuid4(), name=made_up)
        return frame.go(work, "/school/groups", open=str(group_id))


@router.post("/school/groups/{group_id}/{table}/{row_id}/delete")
def delete_part(scope: Change, group_id: UUID, table: Literal["slots", "flags", "teams"], row_id: UUID) -> Response:
    tables: dict[str, Literal["slot", "group_flag", "team"]] = {"slots": "slot", "flags": "group_flag", "teams": "team"}
    with scope.open() as work:
        store.delete_of_group(work.connection, tables[table], group_id, row_id)
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/groups", open=str(group_id))


@router.post("/school/grades")
def save_grades(
    scope: Change,
    word: Annotated[str, Form()] = "",
    first: Annotated[str, Form()] = "",
    last: Annotated[str, Form()] = "",
) -> Response:
    """How the school calls its grades, the first and the last."""
    with scope.open() as work:
        begins = forms.whole(first, field="first", least=0, most=13, what="first_grade")
        ends = forms.whole(last, field="last", least=begins, most=13, what="last_grade")
        store.save_school(
            work.connection,
            {"grade_word": forms.name(word, field="word", most=20), "first_grade": begins, "last_grade": ends - begins},
        )
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/groups")


@dataclass(frozen=True)
class ClassPlainView(View):
    """Filled by `_plain`, read by its template."""

    name: str
    kind: str
    entry_year: int | None
    head_count: int
    led_by: str
    closed_on: date | None


def _plain(group: Group) -> ClassPlainView:
    return ClassPlainView(
        name=group.name,
        kind=group.kind,
        entry_year=group.entry_year,
        head_count=group.head_count,
        led_by=group.led_by,
        closed_on=group.closed_on,
    )


def _group(work: UnitOfWork, group_id: UUID) -> Group:
    found = next((g for g in work.context.groups if g.id == group_id), None)
    if found is None:
        raise errors.NotFound("There is no such group in this school.")
    return found


def _entry_year(work: UnitOfWork, grade: str, entry_year: str) -> int:
    """The year of entry, given as such or by the grade of the school year shown."""
    if entry_year.strip():
        return forms.whole(entry_year, field="entry_year", least=1950, most=2150, what="year_of_entry")
    at = forms.whole(grade, field="grade", least=0, most=work.context.school.last_grade, what="grade")
    year = work.context.calendar.year_of(work.day)
    return (year.starts.year if year else work.day.year) - at


def _page(work: UnitOfWork, opened: str) -> Response:
    context, day = work.context, work.day
    here = context.groups_on(day)
    names = context.group_names(day)
    others = [g for g in context.groups if g not in here]
    grades = context.school.grades
    shown = next((g for g in context.groups if str(g.id) == opened), None)
    year = context.calendar.year_of(day)
    grade_now = classes.grade_on(shown.cohort, day, context.calendar, grades) if shown else None
    heads = sum(g.head_count for g in here if g.kind == "class")
    values = {
        "groups": [_view(work, g, names, day) for g in here],
        "others": [_view(work, g, names, day) for g in others],
        "summary": (
            f"{words.count(len([g for g in here if g.kind == 'class']), 'class', 'classes')}, "
            f"{words.count(heads, 'child', 'children')}, on {words.long_day(day)}"
        ),
        "shown": _view(work, shown, names, day) if shown else None,
        "group": shown,
        "new_id": str(uuid4()),
        "kind_options": [(kind, kind) for kind in GROUP_KINDS],
        "flag_kinds": FLAG_KINDS,
        "weekdays": list(enumerate(WEEKDAYS)),
        "grades": [(n, grades.name(n)) for n in range(grades.last + 1)],
        "grade_now": grade_now,
        "grade_form": {"word": grades.word, "first": grades.first_number, "last": grades.first_number + grades.last},
        "year_name": year.name if year else "this school year",
        "turn": _turn(work),
    }
    return frame.page(work, "school", "Groups", values, template="school/classes.html")


def _view(work: UnitOfWork, group: Group, names: dict[str, str], day: date) -> GroupView:
    facts = [
        group.kind if group.kind != "class" else f"entered {group.entry_year}",
        words.count(group.head_count, "child", "children"),
        f"brought by {group.led_by}" if group.led_by else "",
    ]
    enters, leaves = classes.stay(group.cohort, work.context.calendar, work.context.school.grades)
    when = ""
    if group.closed_on and group.closed_on < day:
        when = f"closed on {words.long_day(group.closed_on)}"
    elif enters and enters > day:
        when = f"arrives on {words.long_day(enters)}"
    elif leaves and leaves < day:
        when = f"left on {words.long_day(leaves)}"
    slots = [SlotView(str(r.id), _slot_words(r.slot)) for r in group.slot_rows]
    flags = list(
        zip([str(f.id) for f in group.flags], classes.flag_words([(f.kind, f.what) for f in group.flags]), strict=True)
    )
    return GroupView(
        str(group.id),
        names[str(group.id)],
        group.name,
        words.joined(facts),
        when,
        slots,
        flags,
        [(str(team.id), team.name) for team in group.teams],
    )


def _slot_words(slot: Slot) -> str:
    held = "" if not slot.in_programme else "summer programme" if not slot.in_terms else "terms and summer programme"
    span = ""
    if slot.from_day or slot.to_day:
        span = " ".join(
            [
                f"from {words.short_day(slot.from_day)}" if slot.from_day else "",
                f"to {words.short_day(slot.to_day)}" if slot.to_day else "",
            ]
        ).strip()
    return words.joined([f"{WEEKDAYS[slot.weekday]} {words.clock(slot.starts_at)}, {slot.minutes} min", held, span])


@dataclass(frozen=True)
class ClassTurnView(View):
    """Filled by `_turn`, read by its template."""

    day: str
    year: int
    name: str
    moving: list[tuple[str, ...]]
    leaving: list[str]
    arriving: list[str]
    entry_missing: bool
    entry_grade: str


def _turn(work: UnitOfWork) -> ClassTurnView | None:
    """What the first day of the next school year changes."""
    context = work.context
    following = next((y for y in context.calendar.years if y.starts > work.day), None)
    if following is None or not context.groups:
        return None
    turn = classes.turn_of_year(following, [g.cohort for g in context.groups], context.school.grades)
    names = {str(g.id): g.name for g in context.groups}
    return ClassTurnView(
        day=words.long_day(following.starts),
        year=following.starts.year,
        name=following.name,
        moving=[(names[i], before, after) for i, before, after in turn.moving],
        leaving=[names[i] for i in turn.leaving],
        arriving=[names[i] for i in turn.arriving],
        entry_missing=turn.entry_missing,
        entry_grade=context.school.grades.name(0),
    )
