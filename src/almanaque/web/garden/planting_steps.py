"""Garden: the steps of a planting in the order of the work, a day of one set by hand, and tending that is wanted no more, or again."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.garden import tending as commands
from almanaque.commands.year import schedule
from almanaque.core.crops.crop import Crop
from almanaque.core.year import tending as rules
from almanaque.core.year.steps import SERIES, SETTABLE, DatedStep
from almanaque.data import tending
from almanaque.store.garden.garden import Planting
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
STEP_WORDS = {
    "start indoors": "sow indoors",
    "pot up": "pot up",
    "harden off": "harden off",
    "prepare bed": "prepare the bed",
    "sow": "sow or set",
    "transplant": "set out",
    "keep moist": "keep moist",
    "thin": "thin",
    "support": "support",
    "mulch": "mulch",
    "scape": "take off scapes",
    "scout": "look under leaves",
    "first picking": "first picking",
    "picking": "pick on",
    "cure": "cure",
    "cut back": "cut back",
    "divide": "divide",
    "clear": "clear",
    **rules.steps_named(tending()),
}
STATE_WORDS = {"planned": "", "set by hand": "set by hand", "done": "done", "over": "over"}


@router.post("/garden/plantings/{planting_id}/steps")
def set_step(
    scope: Plan,
    planting_id: UUID,
    step: Annotated[str, Form()] = "",
    day: Annotated[str, Form()] = "",
    back: Annotated[str, Form()] = "",
) -> Response:
    """Set a step by hand, or leave it to the rules again."""
    with scope.open() as work:
        when = parse_day(day) if day.strip() else None
        schedule.set_step(work.connection, work.context, planting_id, step, when, work.actor())
        return frame.go(work, "/year" if back == "year" else f"/garden/plantings/{planting_id}")


@router.post("/garden/plantings/{planting_id}/tending")
def ask_again(scope: Plan, planting_id: UUID, step: Annotated[str, Form()] = "") -> Response:
    """Ask for tending again that somebody said is wanted no more."""
    with scope.open() as work:
        commands.go_on(work.connection, work.context, planting_id, step, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}")


@dataclass(frozen=True)
class StepView(View):
    """A step of a planting: its days, how it stands, and whether its day can be set."""

    step: str
    words: str
    title: str
    days: str
    state: str
    mark: str
    day: str
    caution: str
    settable: bool
    by_hand: bool
    ended: bool = False


def rows(steps: Sequence[DatedStep], planting: Planting, crop: Crop) -> list[StepView]:
    """The steps as the page lists them: what goes on for some time in one line, and what is wanted no more."""
    found, seen = [], set()
    for dated in steps:
        if not dated.step.again and dated.step.step not in SERIES:
            found.append(_step(dated, planting))
        elif dated.step.step not in seen:
            seen.add(dated.step.step)
            found.append(_going_on([d for d in steps if d.step.step == dated.step.step], planting))
    for practice in rules.of(crop, tending(), cover=planting.cover):
        if (since := planting.tended.ended.get(practice.step)) is not None:
            found.append(_ended(practice, since.isoformat(), f"no more since {words.short_day(since)}"))
    return found


def _going_on(some: Sequence[DatedStep], planting: Planting) -> StepView:
    """What comes again and again, from its first day to its last."""
    left = [d for d in some if d.state == "planned"] or list(some)
    one = _step(left[0], planting)
    days = words.span(left[0].step.from_day, left[-1].step.to_day)
    return StepView(**{**vars(one), "days": days})


def _ended(practice: rules.Practice, day: str, state: str) -> StepView:
    return StepView(practice.step, practice.word, practice.no_more, "", state, "over", day, "", False, False, True)


def _step(dated: DatedStep, planting: Planting) -> StepView:
    step = dated.step
    return StepView(
        step=step.step,
        words=STEP_WORDS.get(step.step, step.step),
        title=step.title,
        days=words.span(step.from_day, step.to_day),
        state=f"done {words.short_day(dated.done_on)}" if dated.done_on else STATE_WORDS[dated.state],
        mark=dated.state.replace(" ", "-"),
        day=step.from_day.isoformat(),
        caution=step.caution,
        settable=step.step in SETTABLE
        and step.ordinal == 1
        and dated.state in ("planned", "set by hand")
        and (step.step != "transplant" or planting.method == "indoors"),
        by_hand=dated.state == "set by hand",
    )
