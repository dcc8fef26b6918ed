"""Garden: neighbours on purpose of one planting, a row beside it in pencil, and what came of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.garden import neighbour_trials as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden.own_experience import OUTCOMES, Experience, sentence
from almanaque.core.journal.sightings import TROUBLES
from almanaque.store.garden import garden, neighbour_trials
from almanaque.store.garden.garden import Planting
from almanaque.store.garden.neighbour_trials import TrialRow
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
Note = Annotated[RequestScope, Depends(may("note"))]
ROW = "row "  # before a crop of which a row is to be pencilled
OUTCOME_WORDS = {"helped": "It helped", "did not": "It did not", "cannot say": "Can’t say"}


@router.post("/garden/plantings/{planting_id}/beside")
def put_beside(
    scope: Plan, planting_id: UUID, beside: Annotated[str, Form()] = "", against: Annotated[str, Form()] = ""
) -> Response:
    """Say that another planting stands beside this one on purpose, or pencil a row of something."""
    with scope.open() as work:
        if beside.startswith(ROW):
            commands.row_beside(
                work.connection, work.context, planting_id, beside.removeprefix(ROW), against, work.actor()
            )
        else:
            if not beside.strip():
                raise BadInput("garden.not_neighbours", field="beside")
            other = forms.row_id(beside)
            commands.put_beside(work.connection, work.context, planting_id, other, against, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}#beside")


@router.post("/garden/plantings/{planting_id}/beside/{trial_id}")
def answer(scope: Note, planting_id: UUID, trial_id: UUID, action: Annotated[str, Form()] = "") -> Response:
    """What came of it; or that it was no trial."""
    with scope.open() as work:
        neighbour_trials.trial(work.connection, trial_id)
        if action == "remove":
            neighbour_trials.remove(work.connection, trial_id)
        else:
            commands.answer(work.connection, trial_id, action, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}#beside")


@dataclass(frozen=True)
class TrialView(View):
    """A neighbour on purpose: whom it stands beside, against what, and what came of it."""

    id: str
    said: str
    outcome: str
    own: str


@dataclass(frozen=True)
class NeighboursView(View):
    """The part of a planting's page on its neighbours. `answers` are what can be said of a trial."""

    trials: list[TrialView]
    answers: list[tuple[str, str]]
    others: list[tuple[str, str]]
    rows: list[tuple[str, str]]
    troubles: list[str]


def view(work: UnitOfWork, planting: Planting) -> NeighboursView:
    """Neighbours on purpose of a planting, and what else could stand there."""
    tried = [t for t in neighbour_trials.trials(work.connection) if planting.id in (t.planting_id, t.beside_id)]
    known = {t.beside_id for t in tried if t.planting_id == planting.id}
    others = [
        p
        for p in garden.plantings(work.connection, bed_id=planting.bed_id, since=planting.bed_from)
        if p.id not in known
        and p.crop != planting.crop
        and p.overlaps(planting.bed_from, planting.bed_to(work.today), work.today)
    ]
    own = commands.own(work.connection, work.context) if tried else []
    pairs = commands.pairs(work.connection, work.context)
    return NeighboursView(
        trials=[_trial(work, t, planting, own) for t in tried],
        answers=[(key, OUTCOME_WORDS[key]) for key in OUTCOMES],
        others=[(str(p.id), f"{work.context.crop_name(p.crop)}, from {words.short_day(p.bed_from)}") for p in others],
        rows=[
            (f"{ROW}{crop}", work.context.crop_name(crop))
            for crop in commands.rows_to_offer(work.context, planting, pairs)
        ],
        troubles=list(TROUBLES["pest"]),
    )


def _trial(work: UnitOfWork, trial: TrialRow, planting: Planting, own: Sequence[Experience]) -> TrialView:
    mine = trial.planting_id == planting.id
    other = work.context.crop_name(trial.beside if mine else trial.crop)
    against = f" against {trial.against}" if trial.against else ""
    said = f"{other} beside it{against}" if mine else f"beside {other.lower()}{against}"
    return TrialView(
        id=str(trial.id),
        said=f"{said}, since {words.short_day(trial.begun_on)}",
        outcome=trial.outcome or "",
        own=_own_words(work, trial, own),
    )


def _own_words(work: UnitOfWork, trial: TrialRow, own: Sequence[Experience]) -> str:
    """What all trials of the same pair say; empty while there is nothing to say."""
    kinds = tuple(work.context.crops[crop].kind for crop in (trial.crop, trial.beside))
    for one in own:
        if (one.crop, one.beside) == kinds and one.against == trial.against.lower() and (one.answered or one.n > 1):
            return str(sentence(one))
    return ""
