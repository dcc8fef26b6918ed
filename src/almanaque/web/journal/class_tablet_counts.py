"""What a class does on tablets besides drawing: ballots, counts and measures at the bed, cards sorted into heaps, the board."""

from dataclasses import dataclass
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Form, Response
from pydantic import BaseModel, Field

from almanaque.commands.garden.bed_findings import FAMILY_NAMES
from almanaque.commands.journal import class_ballots as ballot_commands
from almanaque.commands.journal import class_counts as count_commands
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_ballots, class_counts, class_sorting
from almanaque.core.journal.class_counts import CountKind
from almanaque.core.units import Units
from almanaque.formats.crops import portraits
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import class_counts as count_store
from almanaque.store.journal import class_pages
from almanaque.store.school import turn_of_year
from almanaque.web import forms, frame, words
from almanaque.web.journal import class_board, class_tablet
from almanaque.web.journal.class_board import BoardOf, SortLine
from almanaque.web.journal.class_tablet import Looking, Tablet, TabletFrame, TabletScope, TabletWork, needs
from almanaque.web.view import View

router = APIRouter()


@dataclass(frozen=True)
class BallotChoice:
    """A crop on the ballot."""

    key: str
    name: str
    picture: str


@dataclass(frozen=True)
class ClassVoteView(View):
    """What `journal/class_vote.html` is given."""

    top: TabletFrame
    ballot: str
    ended: bool
    choices: list[BallotChoice]
    number: str
    cast: str
    children: int
    thanks: bool
    dots: list[str]
    wish: str
    each: int


class ChildBallotForm(BaseModel):
    """What the ballot sends, as it was filled in."""

    id: str = ""
    dots: list[str] = Field(default_factory=list)
    wish: str = ""


@router.get("/class/vote")
def vote_page(scope: Looking, thanks: str = "") -> Response:
    """One child's ballot; when it is in, the next child's."""
    with scope.open() as work:
        return _vote(scope, work, ChildBallotForm(), thanks=bool(thanks))


@router.post("/class/ballots")
def cast(scope: Tablet, form: Annotated[ChildBallotForm, Form()]) -> Response:
    """Put a ballot in under its number."""
    try:
        with scope.open() as work:
            needs(work, "vote")
            ballot_id, group_id = _ballot(work)
            on_it = [crop for crop, _ in turn_of_year.ballot_crops(work.connection, ballot_id)]
            ballot_commands.cast(
                work.connection,
                work.context,
                ballot_id,
                group_id,
                forms.row_id(form.id),
                class_ballots.read(form.dots, form.wish, on_it),
                day=work.today,
                tablet=scope.tablet.tablet_id,
            )
        return frame.see("/class/vote?thanks=1")
    except BadInput as error:
        with scope.open() as work:
            return _vote(scope, work, form, error=error)


def _ballot(work: TabletWork) -> tuple[UUID, UUID]:
    """The ballot and the class of a page. Raises NotFound where one is gone."""
    if work.page.ballot_id is None or work.page.class_group_id is None:
        raise errors.NotFound("The ballot of this page was taken out.")
    return work.page.ballot_id, work.page.class_group_id


def _vote(
    scope: TabletScope, work: TabletWork, form: ChildBallotForm, *, thanks: bool = False, error: BadInput | None = None
) -> Response:
    needs(work, "vote")
    ballot_id, group_id = _ballot(work)
    ballot = turn_of_year.ballot(work.connection, ballot_id)
    box = ballot_commands.box(work.connection, work.context, ballot_id, group_id)
    crops = [c for c, _ in turn_of_year.ballot_crops(work.connection, ballot_id) if c in work.context.crops]
    view = ClassVoteView(
        top=class_tablet.shown(scope, work, "vote", error),
        ballot=ballot.name,
        ended=ballot.closed_on is not None,
        choices=sorted(
            (
                BallotChoice(c, work.context.crops[c].name.en, portraits.in_hand(work.context.crops[c], px=96))
                for c in crops
            ),
            key=lambda choice: choice.name,
        ),
        number=form.id if forms.is_id(form.id) else str(uuid4()),
        cast=words.count(len(box.cast), "ballot is in", "ballots are in"),
        children=box.children,
        thanks=thanks,
        dots=form.dots,
        wish=form.wish,
        each=class_ballots.DOTS,
    )
    return frame.bare_page(scope.request, "journal/class_vote.html", view, status=422 if error else 200)


@dataclass(frozen=True)
class CountForm:
    """Something to count, with what was typed when it is shown again."""

    kind: CountKind
    unit: str
    number: str
    amount: str
    of: str
    what: str
    error: str
    error_field: str


@dataclass(frozen=True)
class OwnCount:
    """A count of the team's own, which it can take back."""

    id: str
    said: str
    taken_over: bool


@dataclass(frozen=True)
class ClassCountView(View):
    """What `journal/class_count.html` is given."""

    top: TabletFrame
    where: str
    plant: str
    forms: list[CountForm]
    own: list[OwnCount]
    team_missing: bool


class ClassCountForm(BaseModel):
    """What a count sends, as it was typed."""

    id: str = ""
    kind: str = ""
    amount: str = ""
    of: str = ""
    what: str = ""


@router.get("/class/count")
def count_page(scope: Looking) -> Response:
    with scope.open() as work:
        return _count(scope, work, ClassCountForm())


@router.post("/class/counts")
def count(scope: Tablet, form: Annotated[ClassCountForm, Form()]) -> Response:
    """Keep a count of the team under its number."""
    try:
        with scope.open() as work:
            needs(work, "count", "measure")
            team = class_tablet.own_team(work)
            kind = next((key for key in work.page.counts if key == form.kind), None)
            if kind is None:
                raise errors.NotFound("That is not counted on this page.")
            read = count_commands.read(
                work.context, kind, team.name, work.today, amount=form.amount, of=form.of, what=form.what
            )
            count_commands.keep(work.connection, work.context, work.page, team, forms.row_id(form.id), read)
        return frame.see("/class/count")
    except BadInput as error:
        with scope.open() as work:
            return _count(scope, work, form, error)


@router.post("/class/counts/{count_id}/back")
def take_back(scope: Tablet, count_id: UUID) -> Response:
    """Take a count of the team's own back."""
    with scope.open() as work:
        team = class_tablet.own_team(work)
        count_store.take_back(work.connection, count_id, team_id=team.id)
        return frame.see("/class/count")


def _count(scope: TabletScope, work: TabletWork, form: ClassCountForm, error: BadInput | None = None) -> Response:
    needs(work, "count", "measure")
    units = work.context.school.units
    rows = [
        r for r in count_store.of_page(work.connection, work.page.id) if work.team and r.class_team_id == work.team.id
    ]
    bed_id = work.page.count_bed_id or work.page.bed_id
    view = ClassCountView(
        top=class_tablet.shown(scope, work, "count", error),
        where=garden.bed(work.connection, bed_id).name if bed_id else "",
        plant=plant_name(work, work.team.planting_id) if work.team and work.team.planting_id else "",
        forms=[
            _form(work, class_counts.KINDS[key], form if form.kind == key else None, error) for key in work.page.counts
        ],
        own=[OwnCount(str(r.id), said(r.count, units), r.taken_over) for r in reversed(rows)],
        team_missing=work.team is None,
    )
    return frame.bare_page(scope.request, "journal/class_count.html", view, status=422 if error else 200)


def plant_name(work: TabletWork, planting_id: UUID) -> str:
    """`Potato, Bag 3`: what a team measures."""
    planting = garden.planting(work.connection, planting_id)
    return f"{work.context.crops[planting.crop].name.en}, {garden.bed(work.connection, planting.bed_id).name}"


def said(count: class_counts.ClassCount, units: Units) -> str:
    """A count in a few words: `4 bees, 10 minutes`."""
    kind = class_counts.KINDS[count.kind]
    amount = class_board.amount_words(kind, count.amount, units)
    of = f" of {count.of:g}" if count.kind == "seeds up" else f", {kind.of_words.format(count.of)}" if count.of else ""
    what = _one_of(count.what) if count.amount == 1 else count.what
    return f"{kind.name}: {amount}{f' {what}' if what else ''}{of}"


def _one_of(what: str) -> str:
    """`butterflies` are one `butterfly`, `bees` one `bee`."""
    return f"{what[:-3]}y" if what.endswith("ies") else what.removesuffix("s")


def _form(work: TabletWork, kind: CountKind, typed: ClassCountForm | None, error: BadInput | None) -> CountForm:
    us = work.context.school.units == "us"
    unit = {"length": "in" if us else "cm", "rain": "in" if us else "mm", "count": ""}[kind.measured]
    return CountForm(
        kind,
        unit,
        typed.id if typed and forms.is_id(typed.id) else str(uuid4()),
        typed.amount if typed else "",
        typed.of if typed else "",
        typed.what if typed else "",
        error.message if typed and error else "",
        error.field if typed and error else "",
    )


@dataclass(frozen=True)
class SortCard:
    """A card with its crop, the heap it lies in, and whether that is right, once the answers are shown."""

    key: str
    name: str
    picture: str
    heap: str
    right: str
    answer: str


@dataclass(frozen=True)
class ClassSortView(View):
    """What `journal/class_sort.html` is given."""

    top: TabletFrame
    question: str
    heaps: list[tuple[str, str]]
    cards: list[SortCard]
    told: str
    can_lay: bool


@router.get("/class/sort")
def sort_page(scope: Looking) -> Response:
    with scope.open() as work:
        needs(work, "sort")
        crops = [work.context.crops[c.crop] for c in class_pages.crops(work.connection, work.page.id)]
        by, asked = work.page.sorts_by, class_sorting.cards(work.page.sorts_by, crops)
        lying = count_store.cards(work.connection, [work.team.id])[work.team.id] if work.team else {}
        names = heap_names(class_sorting.heaps(by, crops))
        score = class_sorting.score(asked, lying)
        shown = work.page.answers_shown
        view = ClassSortView(
            top=class_tablet.shown(scope, work, "sort"),
            question=class_sorting.QUESTIONS[by],
            heaps=list(names.items()),
            cards=[
                SortCard(
                    card.crop,
                    work.context.crops[card.crop].name.en,
                    portraits.in_hand(work.context.crops[card.crop], px=96),
                    lying.get(card.crop, ""),
                    ("right" if lying[card.crop] in card.right else "not") if shown and card.crop in lying else "",
                    names.get(card.right[0], "") if shown else "",
                )
                for card in asked
            ],
            told=f"{score.right} of {score.of} are right." if shown else f"{score.sorted} of {score.of} lie in a heap.",
            can_lay=work.team is not None,
        )
    return frame.bare_page(scope.request, "journal/class_sort.html", view)


def heap_names(keys: tuple[str, ...]) -> dict[str, str]:
    """What each heap is called."""
    return {key: FAMILY_NAMES.get(key, key.capitalize()) for key in keys}


@router.post("/class/cards")
def lay(scope: Tablet, crop: Annotated[str, Form()] = "", heap: Annotated[str, Form()] = "") -> Response:
    """Lay a card on a heap, or take it off. Sent again it lies where it lay."""
    with scope.open() as work:
        needs(work, "sort")
        team = class_tablet.own_team(work)
        crops = [work.context.crops[c.crop] for c in class_pages.crops(work.connection, work.page.id)]
        by = work.page.sorts_by
        if crop not in {card.crop for card in class_sorting.cards(by, crops)}:
            raise errors.NotFound("There is no such card on this page.")
        if heap and heap not in class_sorting.heaps(by, crops):
            raise errors.NotFound("There is no such heap on this page.")
        count_store.lay(work.connection, work.context.school.id, team.id, crop, heap)
        return frame.see(f"/class/sort#card-{crop}")


@dataclass(frozen=True)
class ClassBoardView(View):
    """What `journal/class_board.html` is given."""

    top: TabletFrame
    boards: list[BoardOf]
    sorting: list[SortLine]


@router.get("/class/board")
def board(scope: Looking) -> Response:
    """The running board, for tablets and the projector."""
    with scope.open() as work:
        needs(work, "count", "measure", "sort")
        view = ClassBoardView(
            top=class_tablet.shown(scope, work, "board"),
            boards=class_board.boards(
                work.context, work.page, work.teams, count_store.of_page(work.connection, work.page.id)
            ),
            sorting=class_board.sorting(work.connection, work.context, work.page, work.teams)
            if "sort" in work.page.does
            else [],
        )
    return frame.bare_page(scope.request, "journal/class_board.html", view)
