"""What teams draw, kept mark by mark; what the rules say of it; and a part of it built into a draft."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import bed_findings, sunlight
from almanaque.commands.garden.bed_findings import Facts
from almanaque.commands.garden.painting import Paint, paint
from almanaque.commands.growth import forecasts
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.garden.bed import Cell, cell_name, parse_cells
from almanaque.core.garden.site import TALL_MM
from almanaque.core.garden.spacing import Layout
from almanaque.core.growth import school_fit
from almanaque.core.journal import class_drawings as rules
from almanaque.core.journal.class_drawings import PlanFigures
from almanaque.core.units import MM_PER_FOOT
from almanaque.core.words import Phrase
from almanaque.core.year import bloom
from almanaque.store.garden import drafts, garden
from almanaque.store.garden.drafts import Draft
from almanaque.store.garden.garden import Bed, Planting, Site
from almanaque.store.journal import class_drawings as store
from almanaque.store.journal import class_pages
from almanaque.store.journal.class_drawings import SentMark
from almanaque.store.journal.class_pages import ClassCrop, ClassPage, ClassTeam

METRIC_SQUARE_MM = 300.0  # side of a dream garden's square where lengths are metric: our own choice
YEAR = timedelta(days=365)
# Parts that are picked before the plant flowers; where it does, it has bolted.
BEFORE_FLOWER = frozenset({"leaf", "root", "head", "stem", "stalk", "bulb", "sprout"})
DREAM_DEPTH_MM = 300.0  # of its soil: our own choice


@dataclass(frozen=True)
class DrawingBoard:
    """What teams of a page draw on: a bed of the garden or an empty one, and with what. `facts` are read once for all teams."""

    page: ClassPage
    bed: Bed
    crops: Sequence[ClassCrop]
    is_dream: bool

    @property
    def known(self) -> frozenset[str]:
        """What a square can be given."""
        return frozenset(c.crop for c in self.crops) | (frozenset(rules.THINGS) if self.is_dream else frozenset())


@dataclass(frozen=True)
class TeamPlan:
    """A team's plan: what each square holds, and its plantings laid out."""

    squares: Mapping[Cell, str]
    plantings: Sequence[Planting]
    laid: Mapping[UUID, Layout]


def board(connection: Connection[Any], context: Context, page: ClassPage) -> DrawingBoard:
    """What the teams of a page draw on."""
    chosen = [c for c in class_pages.crops(connection, page.id) if c.crop in context.crops]
    if page.bed_id is not None:
        return DrawingBoard(page, garden.bed(connection, page.bed_id), chosen, is_dream=False)
    side = METRIC_SQUARE_MM if context.school.units == "metric" else float(MM_PER_FOOT)
    dream = Bed(
        id=uuid5(page.id, "dream"),
        site_id=uuid5(page.id, "dream site"),
        ordinal=0,
        name="Dream garden",
        purpose="",
        kind="raised",
        material="",
        built_year=None,
        x_mm=0.0,
        y_mm=0.0,
        length_mm=page.dream_columns * side,
        width_mm=page.dream_rows * side,
        depth_mm=DREAM_DEPTH_MM,
        cell_mm=side,
        class_group_id=page.class_group_id,
        version=0,
        kept=[],
    )
    return DrawingBoard(page, dream, chosen, is_dream=True)


def take(
    connection: Connection[Any],
    context: Context,
    on: DrawingBoard,
    team_id: UUID,
    tablet: UUID,
    sent: Sequence[SentMark],
) -> int:
    """Keep marks of a tablet; return the plan's version. Raises BadInput for marks that the page does not know, and beyond its limits."""
    if len(sent) > rules.MOST_MARKS_AT_ONCE:
        raise BadInput("journal.class_too_many_marks", field="marks")
    there, known = set(on.bed.grid().cells), on.known
    if any(s.mark.cell not in there or s.mark.what not in known | {rules.CLEARED} for s in sent):
        raise BadInput("journal.class_strange_mark", field="marks")
    version = store.hold(connection, team_id)
    if store.how_many(connection, team_id) + len(sent) > rules.MOST_MARKS:
        raise BadInput("journal.class_too_many_marks", field="marks")
    store.add(connection, context.school.id, team_id, tablet, sent)
    return version


def take_back(connection: Connection[Any], team_id: UUID, tablet: UUID, stroke: UUID, *, back: bool) -> int:
    """Take a stroke of one's own back, or do it again; return the plan's version."""
    version = store.hold(connection, team_id)
    store.take_back(connection, team_id, tablet, stroke, back)
    return version


def plans(
    connection: Connection[Any], context: Context, on: DrawingBoard, teams: Sequence[ClassTeam], *, today: date
) -> dict[UUID, TeamPlan]:
    """The teams' plans as they are now."""
    drawn = store.marks(connection, [team.id for team in teams])
    return {team.id: plan_of(context, on, team.id, rules.standing(drawn[team.id]), today=today) for team in teams}


def plan_of(context: Context, on: DrawingBoard, team_id: UUID, squares: Mapping[Cell, str], *, today: date) -> TeamPlan:
    """A plan with its plants laid out as on a bed's own sheet."""
    how = {c.crop: c for c in on.crops}
    plantings = [
        _planting(context, on, how[crop], uuid5(team_id, crop), cells, today=today)
        for crop, cells in rules.by_crop(squares).items()
        if crop in how
    ]
    return TeamPlan(squares, plantings, forecasts.layouts(plantings, on.bed, context.crops, context.school.units))


def _planting(
    context: Context, on: DrawingBoard, how: ClassCrop, planting_id: UUID, cells: frozenset[Cell], *, today: date
) -> Planting:
    made = Planting(
        id=planting_id,
        bed_id=on.bed.id,
        crop=how.crop,
        variety="",
        status="pencilled",
        draft_id=None,
        method=how.method,
        start_on=how.start_on,
        per_square=None,
        class_group_id=on.page.class_group_id,
        cells=cells,
        events={},
        depends_on="",
        dates=None,
        verdict=None,
        findings=(),
    )
    setting = context.setting if on.is_dream else forecasts.setting_of(context, made, on.bed)
    fit = forecasts.judged(made, context.crops[how.crop], setting, today=today)
    return replace(made, dates=fit.dates, verdict=fit.verdict)


def judge(
    connection: Connection[Any], context: Context, on: DrawingBoard, plan: TeamPlan, *, today: date
) -> list[Finding]:
    """What the rules of a bed say of a plan; of a dream garden what needs no ground."""
    if not plan.plantings:
        return []
    facts = (
        _dream_facts(context, on, plan)
        if on.is_dream
        else bed_findings.facts(connection, context, on.bed, plan.plantings, today=today)
    )
    found = bed_findings.judge(context, facts, plan.plantings, plan.laid, today=today)
    return [finding for findings in found.values() for finding in findings]


def _dream_facts(context: Context, on: DrawingBoard, plan: TeamPlan) -> Facts:
    """An open place with north up and nothing around it."""
    bed = on.bed
    tall = tuple(
        sunlight.tall(p, bed, context, context.crops[p.crop].height_mm)
        for p in plan.plantings
        if context.crops[p.crop].height_mm >= TALL_MM
    )
    site = Site(bed.site_id, "Dream garden", bed.length_mm, bed.width_mm)
    light = sunlight.Light(site, context.school.latitude, (), tall)
    return Facts(bed, (), {}, (), None, (), light, None)


def notes(context: Context, plan: TeamPlan, findings: Sequence[Finding]) -> list[Phrase]:
    """What a team is told, gently, a few at a time."""
    if not plan.plantings:
        return []
    return rules.gentle_notes(findings, flowers=any(_flowers(context, p) for p in plan.plantings))


def _flowers(context: Context, planting: Planting) -> bool:
    """True for what flowers for bees while it stands; what is picked before it flowers does not."""
    dates = planting.dates
    crop = context.crops[planting.crop]
    if dates is None or (crop.life != "perennial" and crop.part in BEFORE_FLOWER):
        return False
    ends = max(dates.clear_by, dates.bed_from + YEAR) if crop.life == "perennial" else dates.clear_by
    found = bloom.blooms(crop, dates, dates.bed_from, ends, bed_to=ends, southern=context.school.southern)
    return any(one.nectar for one in found)


def figures(context: Context, on: DrawingBoard, plan: TeamPlan, findings: Sequence[Finding]) -> PlanFigures:
    """A plan in figures, by which teams compare theirs."""
    calendar = context.calendar.carried_on
    laid = {p.id: plan.laid[p.id].plants for p in plan.plantings}
    worries = {(f.code, f.subject) for f in findings if f.severity != "note" and f.code in rules.GENTLE}
    return PlanFigures(
        plants=sum(laid.values()),
        kinds=sum(1 for plants in laid.values() if plants),
        used=len(plan.squares),
        squares=len(on.bed.grid().cells),
        for_bees=sum(laid[p.id] for p in plan.plantings if _flowers(context, p)),
        worries=len(worries),
        picked_at_school=sum(
            1
            for p in plan.plantings
            if laid[p.id] and p.dates is not None and school_fit.is_picked_by_children(p.dates, calendar)
        ),
    )


@dataclass(frozen=True)
class BuildWish:
    """Which part of a team's plan is built where: squares as written, all if none are; its corner at a square of the bed."""

    draft_id: UUID
    squares: str = ""
    bed_id: UUID | None = None
    corner: str = ""


def build(
    connection: Connection[Any],
    context: Context,
    on: DrawingBoard,
    team: ClassTeam,
    plan: TeamPlan,
    wish: BuildWish,
    actor: Actor,
) -> list[UUID]:
    """Pencil a part of a plan into a draft of the team's own; return the plantings.

    What would begin in the past begins today. Raises BadInput for squares that hold nothing or do not fit the bed.
    """
    bed_id = wish.bed_id or (None if on.is_dream else on.bed.id)
    if bed_id is None:
        raise BadInput("journal.class_bed_missing", field="bed")
    bed = garden.bed(connection, bed_id)
    within = parse_cells(wish.squares, on.bed.grid()) if wish.squares.strip() else set(plan.squares)
    chosen = [(p, sorted(p.cells & within)) for p in plan.plantings if p.cells & within]
    if not chosen:
        raise BadInput("journal.class_nothing_to_build", field="squares")
    moved = _moved(on, bed, [cell for _, cells in chosen for cell in cells], wish.corner)
    label = context.group_names(on.page.on_day).get(str(on.page.class_group_id), "")
    if wish.draft_id not in {d.id for d in drafts.drafts(connection)}:
        name = f"{team.name}, {label}" if label else team.name
        drafts.save(
            connection,
            context.school.id,
            Draft(wish.draft_id, name[:80], team.name, on.page.class_group_id, None),
        )
    made = []
    for one, cells in chosen:
        squares = ", ".join(cell_name((c + moved[0], r + moved[1])) for c, r in cells)
        start = max(one.start_on, actor.today)
        wanted = Paint(
            squares,
            one.crop,
            one.method,
            start,
            ink=False,
            draft_id=wish.draft_id,
            class_group_id=on.page.class_group_id,
        )
        made.append(paint(connection, context, bed.id, wanted, actor))
    return made


def _moved(on: DrawingBoard, bed: Bed, cells: Sequence[Cell], corner: str) -> tuple[int, int]:
    """By how many squares a part is moved: none on its own bed, else its corner comes to the one that was named, or the first."""
    if bed.id == on.bed.id and not corner.strip():
        return 0, 0
    least = min(c for c, _ in cells), min(r for _, r in cells)
    to = min(parse_cells(corner, bed.grid())) if corner.strip() else (0, 0)
    return to[0] - least[0], to[1] - least[1]
