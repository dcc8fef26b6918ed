"""What the bed sheet says besides the drawing: the list of what stands there, the notes in the margin, the preview."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import Finding, worst_first
from almanaque.core.garden import bed_rebuild, site_suitability
from almanaque.core.garden import layout as core_layout
from almanaque.core.garden.bed import Cell, parse_cells
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.garden.site_suitability import Closed
from almanaque.core.growth import nearest_fit, school_fit
from almanaque.core.growth.growth_dates import GrowthDates, picking_window
from almanaque.core.units import format_length
from almanaque.core.words import terms
from almanaque.store.garden.bed_closures import Closure
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import fix_links, words
from almanaque.web.fix_links import FixLink
from almanaque.web.garden.bed_picture import Marker, PlantingPicture, marker

# Notes that are shown under the faults and cares; the others of that severity stay with the planting's own page.
WORTH_KNOWING = frozenset(
    {
        "good_neighbours",
        "bad_neighbours",
        "climbs_on",
        "needs_support",
        "runs_out",
        "nibbled_far",
        "poisonous_near",
        "family_back_soon",
        "own_count_close",
        "shaded_by_plant",
        "supposed_year",
    }
)
VERDICT_CLASS = {"fits": "fits", "with care": "care", "misses": "misses"}


@dataclass(frozen=True)
class SheetLine:
    """One planting in the list under the sheet."""

    id: str
    code: str
    crop: str
    status: str
    count: str
    dates: str
    verdict: str
    verdict_class: str
    fill: str
    startable: str
    here: bool


@dataclass(frozen=True)
class NoteView:
    number: int
    severity: str
    planting_id: str
    message: str
    reason: str
    source: str
    fixes: list[FixLink]


@dataclass(frozen=True)
class Preview:
    """What painting would give, before it is painted."""

    count: str
    reading: str
    follows: str
    others: list[str]
    dates: list[str]
    verdict: str
    verdict_class: str
    notes: list[NoteView]


def lines(
    shown: Sequence[PlantingPicture], context: Context, day: date, today: date, *, fills: dict[str, str]
) -> list[SheetLine]:
    """The plantings of a sheet in words, on a day that may have passed; classes are named as they are called today."""
    then = day < today
    found = []
    for item in shown:
        planting = item.planting
        startable = ""
        if planting.status == "planned" and "started" not in planting.events:
            startable = "started"
        elif planting.status == "planned" and planting.method == "indoors":
            startable = "set out"
        elif planting.status == "in the ground":
            startable = "cleared"
        found.append(
            SheetLine(
                id=str(planting.id),
                code=item.crop.code,
                crop=item.crop.name.en,
                status=_status(planting, item.here, then=then),
                count=words.joined(
                    [
                        words.count(item.layout.plants, "plant"),
                        words.count(item.layout.squares, "square"),
                        item.layout.words,
                        _amount(planting, item),
                    ]
                ),
                dates=words.joined(
                    [
                        *date_sentences(item.crop, planting.method, planting.dates, planting, min(day, today)),
                        _who(planting, context, today),
                    ]
                ),
                verdict=terms("verdict")[planting.verdict] if planting.verdict else "",
                verdict_class=VERDICT_CLASS.get(planting.verdict or "", ""),
                fill=fills[item.crop.family],
                startable=startable,
                here=item.here,
            )
        )
    return found


def margin(
    shown: Sequence[PlantingPicture], bed: Bed, judged: Mapping[UUID, Sequence[Finding]], *, today: date
) -> tuple[list[NoteView], list[NoteView], list[Marker]]:
    """Notes numbered where they apply, faults first; those that are only worth knowing apart from them."""
    found: list[tuple[Finding, PlantingPicture]] = []
    for item in shown:
        for finding in (*item.planting.findings, *judged.get(item.planting.id, ())):
            if finding.severity != "note" or finding.code in WORTH_KNOWING:
                found.append((finding, item))
    order = worst_first([finding for finding, _ in found])
    found.sort(key=lambda pair: order.index(pair[0]))
    notes, worth, marks = [], [], []
    for number, (finding, item) in enumerate(found, start=1):
        view = note(finding, number, today, planting=item.planting)
        if finding.severity == "note":
            worth.append(view)
        else:
            notes.append(view)
            marks.append(marker(number, finding.severity, item.cells, bed))
    return notes, worth, marks


def note(finding: Finding, number: int, today: date, *, planting: Planting | None = None) -> NoteView:
    """A finding as the margin shows it; days that have passed are not offered any more."""
    planting_id = (
        str(planting.id) if planting and planting.status in ("pencilled", "planned") and not planting.events else ""
    )
    message = f"{finding.subject}: {finding.message[:1].lower()}{finding.message[1:]}" if planting else finding.message
    fixes = [
        fix_links.link(fix, planting)
        for fix in finding.fixes
        if not (fix.action.startswith("start:") and fix.value < today.isoformat())
    ]
    return NoteView(number, finding.severity, planting_id, message, finding.reason, finding.said_by, fixes)


def preview(
    context: Context,
    bed: Bed,
    crop: Crop,
    *,
    method: Method,
    start_on: date,
    squares: str,
    wish: LayoutWish,
    per_head: str,
    today: date,
    speaks: Callable[[frozenset[Cell], GrowthDates], list[Finding]],
) -> Preview:
    """Count, dates and verdict of a crop in the chosen squares, or in one square while none is chosen.

    `speaks` says what the rules of the bed have against squares and dates.
    """
    setting = forecasts.setting_in(context, bed, start_on, None)
    judged = school_fit.judge(crop, method, start_on, setting)
    in_bed = judged.dates.bed_from  # what is kept until then is free by then
    grid, units = bed.grid(in_bed), context.school.units
    cells = parse_cells(squares, grid) if squares.strip() else set(grid.cells[:1])
    kept = [part for part in bed.kept if part.overlaps(in_bed, in_bed)]
    laid = core_layout.lay_out(
        core_layout.squares_needed(cells, grid, crop, wish),
        grid,
        crop,
        wish,
        units=units,
        kept=kept,
        outline_mm=bed.outline_mm,
    )
    work = core_layout.lay_out(
        cells, grid, crop, replace(wish, wanted=None), units=units, kept=kept, outline_mm=bed.outline_mm
    )
    notes = [note(finding, number, today) for number, finding in enumerate(judged.findings, start=1)]
    if judged.verdict != "fits":
        mends = [fix_links.link(mend) for mend in nearest_fit.mends(judged, setting, not_before=today)]
        first = notes[0]
        kept_fixes = [fix for fix in first.fixes if not fix.start_on]
        notes[0] = NoteView(
            first.number, first.severity, "", first.message, first.reason, first.source, [*mends, *kept_fixes]
        )
    if squares.strip():
        against = [finding for finding in speaks(frozenset(cells), judged.dates) if finding.severity != "note"]
        notes += [
            note(finding, number, today) for number, finding in enumerate(worst_first(against), start=len(notes) + 1)
        ]
        count = f"{words.count(laid.plants, 'plant')} in {words.count(laid.squares, 'square')}"
        if laid.left_over:
            count += f", {words.count(len(laid.left_over), 'square')} left over"
        if wish.wanted is not None:
            count += f"; {core_layout.number_words(replace(work, positions_mm=laid.positions_mm), wish.wanted, per_head=per_head)}"
    else:
        count = "No squares chosen yet."
    follow = core_layout.figures(crop, wish, grid.cell_mm)
    thin = (
        f" Sow {format_length(wish.sow_mm, units, feet=False)} apart, thin to {format_length(follow.in_row_mm, units, feet=False)}."
        if wish.sow_mm
        else ""
    )
    return Preview(
        count=count,
        reading=laid.words,
        follows=f"By {follow.whose}.{thin}",
        others=core_layout.other_readings(
            cells, grid, crop, wish, units=units, hand_span_mm=context.school.hand_span_mm
        ),
        dates=date_sentences(crop, method, judged.dates, None, judged.dates.start),
        verdict=terms("verdict")[judged.verdict],
        verdict_class=VERDICT_CLASS[judged.verdict],
        notes=notes,
    )


def bed_ends(beds: Sequence[Bed], day: date) -> list[Finding]:
    """Beds whose material is near the end of its usual life."""
    return [
        finding
        for bed in beds
        for finding in bed_rebuild.near_end(
            bed.name, bed.material, bed.built_year, year=day.year, page=_rebuild_page(bed.id)
        )
    ]


def closures(
    context: Context,
    beds: Sequence[Bed],
    shut: Sequence[Closure],
    plantings: Sequence[Planting],
    *,
    day: date,
    today: date,
) -> list[Finding]:
    """Beds that are or will be closed, with what would still stand there."""
    names = {bed.id: bed.name for bed in beds}
    found = []
    for closure in shut:
        standing = [
            (context.crops[p.crop].name.en, p.bed_to(today))
            for p in plantings
            if p.bed_id == closure.bed_id
            and p.status in ("in the ground", "planned")
            and p.overlaps(closure.starts, closure.ends, today)
        ]
        if closure.ends >= day:
            closed = Closed(closure.starts, closure.ends, closure.reason)
            found.append(
                site_suitability.closed_bed(names[closure.bed_id], closed, standing, page=_rebuild_page(closure.bed_id))
            )
    return found


def _rebuild_page(bed_id: UUID) -> str:
    return f"/garden/beds/{bed_id}/rebuild"


def date_sentences(
    crop: Crop, method: Method, dates: GrowthDates | None, planting: Planting | None, day: date
) -> list[str]:
    """`sown 30 Mar`, `up 4 – 10 Apr`, `picked 3 – 24 Jun`: what really happened where it has, else the forecast of
    the season that `day` falls in or before."""
    if dates is None:
        return []
    events = planting.events if planting else {}
    started = "started" in events
    verb = {
        "direct": ("sow", "sown"),
        "cloves": ("set", "set"),
        "starts": ("set out", "set out"),
        "indoors": ("sow indoors", "sown indoors"),
    }[method][started]
    found = [f"{verb} {words.short_day(events.get('started', dates.start))}"]
    if method == "indoors":
        found.append(f"set out {words.short_day(dates.bed_from)}")
    if dates.emerge_from and dates.emerge_to and "emerged" not in events:
        found.append(f"up {words.span(dates.emerge_from, dates.emerge_to)}")
    if "cleared" in events:
        found.append(f"cleared {words.short_day(events['cleared'])}")
        return found
    window = picking_window(crop, dates, day, first_picked=events.get("first picking"))
    if window.begun:
        found.append(f"picked since {words.short_day(window.begun)}, until about {words.short_day(window.best)}")
    else:
        late = window.first + (dates.first_pick_late - dates.first_pick)
        found.append(f"first picking {words.span(window.early, late)}")
        found.append(f"last about {words.short_day(window.best)}")
    if window.last > window.best:
        found.append(f"may stand until {words.short_day(window.last)}")
    return found


def method_choices(crop: Crop) -> list[tuple[Method, str]]:
    return [(method, terms("method")[method]) for method in crop.methods]


def _who(planting: Planting, context: Context, today: date) -> str:
    """`planted by last year's Grade 2, now Grade 3`; a plan is for its class."""
    planted = planting.events.get("set out") or planting.events.get("started")
    who = context.who_planted(planting.class_group_id, planted or planting.start_on, today)
    if not who:
        return ""
    return f"planted by {who}" if planted else f"for {who}"


def _amount(planting: Planting, item: PlantingPicture) -> str:
    """Whose figure was followed where it is not the usual one, and that it stands among others."""
    parts = [
        f"by {terms('follows')[planting.spacing_from]}" if planting.spacing_from != "count" else "",
        "among others on purpose" if planting.with_others else "",
        core_layout.number_words(item.layout, planting.wanted) if planting.wanted is not None else "",
    ]
    return ", ".join(part for part in parts if part)


def _status(planting: Planting, here: bool, *, then: bool) -> str:
    if then and here:
        return "in the ground then"
    if here or planting.status == "in the ground":
        return planting.status
    return f"{planting.status} from {words.short_day(planting.bed_from)}"
