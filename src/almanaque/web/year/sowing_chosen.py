"""The finder's answers in words: by when it must be sown for a day, and a chosen week in full."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.crops.crop import Method
from almanaque.core.growth import nearest_fit, school_fit
from almanaque.core.words import terms
from almanaque.store.garden import garden
from almanaque.web import words
from almanaque.web.garden import sheet_parts
from almanaque.web.request_scope import UnitOfWork
from almanaque.web.view import View
from almanaque.web.year.sowing_query import AIMS, FinderForm, FinderQuery, address

VERBS: dict[Method, str] = {"direct": "Sow", "indoors": "Sow indoors", "starts": "Set out", "cloves": "Set"}


@dataclass(frozen=True)
class DeadlineView(View):
    """Filled by `_deadline`, read by its template."""

    sentence: str
    best: str
    best_day: date | None
    latest_day: date | None


def deadline_of(work: UnitOfWork, asked: FinderQuery) -> DeadlineView | None:
    """The answer to “by when must I sow?”, in a sentence; None when no day was asked for."""
    if asked.goal is None:
        return None
    found = nearest_fit.back_from(
        asked.crop, asked.method, asked.goal, asked.setting, not_before=work.today, aim=asked.aim
    )
    years = f" ({found.latest_years} of {found.of} years)" if found.of else ""
    best = f" ({found.best_years} of {found.of} years)" if found.of else ""
    verb = VERBS[asked.method]
    goal = f"{AIMS[asked.aim]} {words.short_day(asked.goal)}"
    if found.latest and found.best:
        sentence = (
            f"{verb} by {words.short_day(found.latest)}{years} at the latest "
            f"to have it {goal}; best on {words.short_day(found.best)}{best}."
        )
    elif found.best:
        sentence = f"No day makes it {goal} in four years of five. The best is {words.short_day(found.best)}{best}."
    else:
        sentence = f"No day from today on makes it {goal}."
    if found.best and asked.aim == "ready":
        sentence += _from_where(asked, found.best)
    return DeadlineView(
        sentence=sentence,
        best=words.short_day(found.best) if found.best else "",
        best_day=found.best,
        latest_day=found.latest,
    )


def _from_where(asked: FinderQuery, best: date) -> str:
    """Whether what is started on the best day is fresh on the day asked for, still stands, or comes from store."""
    assert asked.goal is not None
    dates = school_fit.judge(asked.crop, asked.method, best, asked.setting).dates
    match nearest_fit.waits(asked.crop, dates, asked.goal):
        case "standing":
            return " By then it still stands, past its best."
        case "stored" if asked.crop.keeps_how:
            return f" By then it comes from store: {asked.crop.keeps_how}."
        case _:
            return ""


@dataclass(frozen=True)
class MendView(View):
    """A change that would mend it, as a link to the same page with the change made."""

    label: str
    href: str


@dataclass(frozen=True)
class ChosenDayView(View):
    """A day of the finder in full."""

    day: str
    iso: str
    short: str
    dates: Sequence[str]
    verdict: str
    verdict_class: str
    years: str
    notes: list[sheet_parts.NoteView]
    mends: list[MendView]
    past: bool
    groups: list[tuple[str, str]]
    beds: list[tuple[str, str]]
    bed: str


def chosen_view(work: UnitOfWork, asked: FinderQuery, form: FinderForm) -> ChosenDayView | None:
    """The chosen day in full: dates, verdict, findings, what would mend it, and the form that pencils it in."""
    if asked.sow is None:
        return None
    judged = school_fit.judge(asked.crop, asked.method, asked.sow, asked.setting)
    notes = [sheet_parts.note(finding, number, work.today) for number, finding in enumerate(judged.findings, start=1)]
    mends = (
        []
        if judged.verdict == "fits"
        else [
            MendView(label=mend.label, href=_mended(work, form, mend.action, mend.value))
            for mend in nearest_fit.mends(judged, asked.setting, not_before=work.today)
        ]
    )
    names = work.context.group_names(asked.sow)
    return ChosenDayView(
        day=words.long_day(asked.sow),
        iso=asked.sow.isoformat(),
        short=words.short_day(asked.sow),
        dates=sheet_parts.date_sentences(asked.crop, asked.method, judged.dates, None, asked.sow),
        verdict=terms("verdict")[judged.verdict],
        verdict_class=sheet_parts.VERDICT_CLASS[judged.verdict],
        years=f"children here to pick in {judged.n} of {judged.of} years" if judged.of else "",
        notes=notes,
        mends=mends,
        past=asked.sow < work.today,
        groups=[
            ("", "the bed's own class"),
            *((str(g.id), names[str(g.id)]) for g in work.context.groups_on(asked.sow)),
        ],
        beds=[("", "choose a bed"), *((str(bed.id), bed.name) for bed in garden.beds(work.connection))],
        bed=form.bed,
    )


def _mended(work: UnitOfWork, form: FinderForm, action: str, value: str) -> str:
    """The address of the same page with the change made; empty where it is none of this page."""
    if action.startswith("start:"):
        return address(work, form, method=action.removeprefix("start:"), sow=value)
    return address(work, form, cover=value) if action == "cover" else ""
