"""The questions of a garden tour: what is due to be looked at on each planting, with answers that one thumb can give."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.growth_dates import GrowthDates, picking_window
from almanaque.core.growth.plant_height import height_mm
from almanaque.core.journal.sightings import STAGES, Remedy, Sighting, latest, say
from almanaque.core.units import Units, format_length
from almanaque.core.words.days import short_day
from almanaque.core.year import tending
from almanaque.core.year.steps import UP, DatedStep
from almanaque.core.year.tending import Practice

Code = Literal[
    "up",
    "trouble",
    "remedy",
    "note",
    "step",
    "ready",
    "bolted",
    "flowers",
    "ending",
    "height",
    "found",
    "drip",
    "beside",
    "weed",
]
Ask = Literal["choice", "length", "flowers", "name", "place", "much"]

EARLY_DAYS = 2  # seed is looked for so many days before it is due: our own rule
READY_DAYS = 4  # picking is asked about so many days before it is due: our own rule
HEIGHT_EVERY = timedelta(days=13)  # heights make a chart when they are read every other week: our own rule
BOLTED_EVERY = timedelta(days=10)
TALL_MM = 250.0  # lower plants are not measured: our own rule
GROWN = frozenset(STAGES) - {"not up", "coming up"}
BOLTING = frozenset({"leaf", "head", "stem", "stalk", "root"})
ASKED_STEPS = ("thin", "support", "mulch", "scape", "pot up")


@dataclass(frozen=True)
class Answer:
    """A button: `key` is what it means, `label` what it says."""

    key: str
    label: str


@dataclass(frozen=True)
class Question:
    """Something to look at. `subject` is the planting, sighting, remedy, note, job or plant it is about."""

    code: Code
    subject: str
    planting: str
    title: str
    detail: str
    answers: tuple[Answer, ...] = ()
    ask: Ask = "choice"


@dataclass(frozen=True)
class Toured:
    """A planting as the tour meets it. `steps` as they stand, each open one with the id of its job, if it has one.

    `practices` are those of its tending by step, `done_lately` the day on which a step was last done, also in part; `still` is air that
    hardly moved for days.
    """

    id: str
    crop: Crop
    method: Method
    where: str
    dates: GrowthDates
    events: dict[str, date]
    steps: Sequence[tuple[DatedStep, str]] = ()
    seen: Sequence[Sighting] = ()
    remedies: Sequence[Remedy] = ()
    ending: str = ""
    in_flower: bool = False
    hot: bool = False
    still: bool = False
    practices: Mapping[str, Practice] = field(default_factory=dict)
    done_lately: Mapping[str, date] = field(default_factory=dict)

    @property
    def name(self) -> str:
        return self.crop.name.en

    @property
    def is_up(self) -> bool:
        """Up as far as anybody knows: seen, or set out as a plant, or its stages say so."""
        if self.method in ("indoors", "starts"):
            return "set out" in self.events or self.method == "starts"
        if any(kind in self.events for kind in UP):
            return True
        stages = [s.what for s in self.seen if s.kind == "stage"]
        return any(s.kind == "height" for s in self.seen) or bool(stages and stages[-1] in GROWN)


_UP = (Answer("not yet", "Not yet"), Answer("some", "Some"), Answer("all", "All"))
_TROUBLE = (Answer("worse", "Worse"), Answer("same", "Same"), Answer("better", "Better"), Answer("gone", "Gone"))
_REMEDY = (Answer("helped", "Helped"), Answer("did not", "Did not"), Answer("cannot say", "Can’t say"))
_STEP = (Answer("not yet", "Not yet"), Answer("now", "Now"), Answer("done", "Done"))
_TENDED = (Answer("not yet", "Not yet"), Answer("done", "Done"))
_READY = (Answer("not yet", "Not yet"), Answer("nearly", "Nearly"), Answer("ready", "Ready"))
_BOLTED = (Answer("no", "No"), Answer("some", "Some"), Answer("yes", "Yes"))
_ENDING = (Answer("deadhead", "Deadhead"), Answer("seed", "Leave for seed"), Answer("later", "Later"))
_FOUND = (Answer("keep", "Keep"), Answer("weed out", "Weed out"), Answer("gone", "It is gone"))
_NOTE = (Answer("still", "Still so"), Answer("settled", "Settled"))


def questions(planting: Toured, day: date, units: Units) -> Iterator[Question]:
    """What is due to be looked at on a planting on a day, the most pressing first. **Source:** common practice, no source."""
    yield from _troubles(planting, day, units)
    yield from _remedies(planting, day)
    yield from _up(planting, day)
    yield from _steps(planting, day)
    yield from _tending(planting, day)
    yield from _ready(planting, day)
    yield from _bolted(planting, day)
    yield from _flowers(planting, day)
    yield from _height(planting, day, units)


def note(note_id: str, body: str, noted_on: date) -> Question:
    """A note that somebody wanted to come back to."""
    short = body if len(body) <= 120 else body[:119].rstrip() + "…"
    return Question("note", note_id, "", short, f"Noted {short_day(noted_on)}", _NOTE)


def found_plant(plant_id: str, name: str, square: str, found_on: date) -> Question:
    """A plant that nobody sowed and nobody has decided on."""
    if not name:
        return Question(
            "found",
            plant_id,
            "",
            f"Unknown plant at {square}: what is it?",
            f"Nobody sowed it; seen since {short_day(found_on)}. Nobody tastes it before it is known",
            _FOUND,
            ask="name",
        )
    what = name
    return Question(
        "found",
        plant_id,
        "",
        f"{what} at {square}: keep it?",
        f"Nobody sowed it; seen since {short_day(found_on)}",
        _FOUND,
    )


def drip_line(job: str, bed: str, results: Sequence[str]) -> Question:
    """What is found on a bed's drip line, and where."""
    detail = "It drips at every hole, and a can at its end fills as always. What is not in order: where?"
    answers = tuple(Answer(result, result.capitalize()) for result in results)
    return Question("drip", job, "", f"Drip line of {bed}?", detail, answers, ask="place")


def weeding(job: str, bed: str, detail: str) -> Question:
    """Whether a bed was weeded, and how much it was."""
    said = f"{detail}. Roots out before anything seeds. Gloves: nobody pulls what nobody knows"
    return Question("weed", job, "", f"{bed} weeded?", said, _TENDED, ask="much")


def beside(trial: str, planting: str, crop: str, other: str, against: str) -> Question:
    """Whether a neighbour on purpose helped."""
    what = f"Did {other.lower()} beside the {crop.lower()} help{f' against {against}' if against else ''}?"
    return Question(
        "beside", trial, planting, what, "By what you saw on these plants, not by what is said of them", _REMEDY
    )


def troubles(seen: Sequence[Sighting], bed: str, day: date, units: Units) -> Iterator[Question]:
    """What was found in a bed and on no planting of it, such as a line that leaks."""
    for one in latest(seen):
        if one.come_back_on is not None and one.come_back_on <= day:
            title = f"{one.what.capitalize()} in {bed}, {short_day(one.day)}"
            yield Question("trouble", one.root, "", title, say(one, units), _TROUBLE)


def _troubles(p: Toured, day: date, units: Units) -> Iterator[Question]:
    for one in latest(p.seen):
        if one.come_back_on is not None and one.come_back_on <= day:
            done = [r for r in p.remedies if r.applied_on >= one.day]
            detail = say(one, units) + (f". {done[-1].what} on {short_day(done[-1].applied_on)}" if done else "")
            yield Question(
                "trouble",
                one.root,
                p.id,
                f"{one.what.capitalize()} on {p.name.lower()}, {short_day(one.day)}",
                detail,
                _TROUBLE,
            )


def _remedies(p: Toured, day: date) -> Iterator[Question]:
    for remedy in p.remedies:
        if remedy.outcome is None and remedy.ask_on <= day:
            yield Question(
                "remedy",
                remedy.id,
                p.id,
                f"Did “{remedy.what}” help against {remedy.against}?",
                f"{p.name}, done {short_day(remedy.applied_on)}",
                _REMEDY,
            )


def _up(p: Toured, day: date) -> Iterator[Question]:
    due = p.dates.emerge_from
    sown = p.events.get("started")
    if p.method != "direct" or due is None or sown is None or p.is_up or day < due - timedelta(days=EARLY_DAYS):
        return
    late = p.dates.emerge_to is not None and day > p.dates.emerge_to
    when = f"due since {short_day(due)}" if day >= due else f"due {short_day(due)}"
    if late and p.dates.emerge_to is not None:
        when = f"it should have been up by {short_day(p.dates.emerge_to)}"
    yield Question("up", p.id, p.id, f"{p.name} up?", f"{p.where}, sown {short_day(sown)}, {when}", _UP)


def _steps(p: Toured, day: date) -> Iterator[Question]:
    for dated, job in p.steps:
        step = dated.step
        if step.step in ASKED_STEPS and dated.state in ("planned", "set by hand") and job and step.from_day <= day:
            if step.step == "thin" and not p.is_up:
                continue
            yield Question(
                "step",
                job,
                p.id,
                f"{step.title}?",
                f"{p.where}, {short_day(step.from_day)} to {short_day(step.to_day)}",
                _STEP,
            )


def _tending(p: Toured, day: date) -> Iterator[Question]:
    """What goes on is asked as often as it is done; with what ends it as an answer beside."""
    for dated, job in p.steps:
        step, practice = dated.step, p.practices.get(dated.step.step)
        if practice is None or not job or dated.state != "planned" or not step.from_day <= day <= step.to_day:
            continue
        if practice.in_still and not p.still:
            continue
        done = p.done_lately.get(step.step)
        if done is not None and day - done < timedelta(days=practice.every - 1):
            continue
        more = (Answer("no more", practice.no_more),) if practice.no_more else ()
        when = practice.rhythm or f"{short_day(step.from_day)} to {short_day(step.to_day)}"
        yield Question(
            "step",
            job,
            p.id,
            tending.asks(practice, p.crop),
            f"{p.where}, {when}. {practice.how} {practice.caution}".strip(),
            (*_TENDED, *more),
        )


def _ready(p: Toured, day: date) -> Iterator[Question]:
    window = picking_window(p.crop, p.dates, day, first_picked=p.events.get("first picking"))
    if p.crop.for_guests or window.begun or "ready" in p.events or "bolted" in p.events:
        return
    if window.early - timedelta(days=READY_DAYS) <= day <= window.last:
        yield Question("ready", p.id, p.id, f"{p.name} ready?", f"{p.where}. {p.crop.ready_sign}", _READY)


def _bolted(p: Toured, day: date) -> Iterator[Question]:
    """Asked of cool leaf crops in a hot spell, and of what is near its end."""
    if (
        p.crop.season != "cool"
        or p.crop.part not in BOLTING
        or p.crop.life == "perennial"
        or not p.is_up
        or "bolted" in p.events
    ):
        return
    asked = max((s.day for s in p.seen if s.kind == "stage"), default=None)
    if (p.hot or day >= p.dates.first_pick) and (asked is None or day - asked >= BOLTED_EVERY):
        why = "After hot days" if p.hot else "Near its end"
        yield Question(
            "bolted",
            p.id,
            p.id,
            f"{p.name} bolted?",
            f"{p.where}. {why}: a stalk in the middle, smaller leaves",
            _BOLTED,
        )


def _flowers(p: Toured, day: date) -> Iterator[Question]:
    if not p.in_flower:
        return
    counted = any(s.kind == "flowers" and s.day > day - timedelta(days=7) for s in p.seen)
    if p.crop.male_female and not counted:
        yield Question(
            "flowers",
            p.id,
            p.id,
            f"{p.name}: flowers open?",
            f"{p.where}. Female ones have a small fruit below; both must be open together",
            ask="flowers",
        )
    elif p.crop.group in ("flowers", "herbs") and not p.ending:
        yield Question(
            "ending",
            p.id,
            p.id,
            f"{p.name} in flower: what then?",
            f"{p.where}. Cut off what fades, or leave it to set seed",
            _ENDING,
        )


def _height(p: Toured, day: date, units: Units) -> Iterator[Question]:
    measured = max((s.day for s in p.seen if s.kind == "height"), default=None)
    grown = p.crop.life in ("annual", "biennial") and p.crop.height_mm >= TALL_MM
    if not grown or not p.is_up or "bolted" in p.events or (measured is not None and day - measured < HEIGHT_EVERY):
        return
    expected = height_mm(p.crop, day, p.dates)
    if expected < 30 or day > p.dates.last_pick:
        return
    yield Question(
        "height",
        p.id,
        p.id,
        f"How tall is the {p.name.lower()}?",
        f"{p.where}. About {format_length(expected, units, feet=False)} to expect",
        ask="length",
    )
