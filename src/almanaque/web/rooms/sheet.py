"""What the bed sheet says besides the drawing: the list of what stands there, the notes in the margin, the preview."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.commands.context import Context
from almanaque.core import fit, spacing
from almanaque.core.bed import parse_cells
from almanaque.core.crops import METHOD_WORDS, Crop, Method
from almanaque.core.findings import Finding, Fix, worst_first
from almanaque.core.growth import GrowthDates
from almanaque.core.standing import Standing, bed_taken
from almanaque.core.units import format_length
from almanaque.store.garden import Bed, Planting
from almanaque.web import words
from almanaque.web.pictures.bed_sheet import Marker, Shown, marker

VERDICT_CLASS = {"fits": "fits", "with care": "care", "misses": "misses"}


@dataclass(frozen=True)
class Line:
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
class FixView:
    """`method` and `start_on` are filled where the fix can be applied with one press."""

    label: str
    method: str
    start_on: str
    href: str


@dataclass(frozen=True)
class NoteView:
    number: int
    severity: str
    planting_id: str
    message: str
    reason: str
    source: str
    fixes: list[FixView]


@dataclass(frozen=True)
class Preview:
    """What painting would give, before it is painted."""

    count: str
    reading: str
    other: str
    dates: list[str]
    verdict: str
    verdict_class: str
    notes: list[NoteView]


def lines(shown: Sequence[Shown], context: Context, today: date, *, fills: dict[str, str]) -> list[Line]:
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
            Line(
                id=str(planting.id), code=item.crop.code, crop=item.crop.name.en, status=_status(planting, item.here),
                count=words.joined([words.count(item.layout.plants, "plant"), words.count(item.layout.squares, "square"),
                                    item.layout.reading.words]),
                dates=words.joined(
                    [*date_sentences(item.crop, planting.method, planting.dates, planting), _who(planting, context, today)]
                ),
                verdict=fit.VERDICT_WORDS[planting.verdict] if planting.verdict else "",
                verdict_class=VERDICT_CLASS.get(planting.verdict or "", ""), fill=fills[item.crop.family],
                startable=startable, here=item.here,
            )
        )  # fmt: skip
    return found


def margin(
    shown: Sequence[Shown], bed: Bed, plantings: Sequence[Planting], context: Context, *, today: date
) -> tuple[list[NoteView], list[Marker]]:
    """Notes numbered where they apply: faults first, then what needs care."""
    found: list[tuple[Finding, Shown]] = []
    for item in shown:
        for finding in (
            *item.planting.findings,
            *_clashes(item, plantings, context, today),
            *spacing.left_over(item.crop.name.en, item.layout),
        ):
            if finding.severity != "note":
                found.append((finding, item))
    order = worst_first([finding for finding, _ in found])
    found.sort(key=lambda pair: order.index(pair[0]))
    notes, marks = [], []
    for number, (finding, item) in enumerate(found, start=1):
        notes.append(note(finding, number, today, planting=item.planting))
        marks.append(marker(number, finding.severity, item.cells, bed))
    return notes, marks


def note(finding: Finding, number: int, today: date, *, planting: Planting | None = None) -> NoteView:
    """A finding as the margin shows it; days that have passed are not offered any more."""
    planting_id = (
        str(planting.id) if planting and planting.status in ("pencilled", "planned") and not planting.events else ""
    )
    message = f"{finding.subject}: {finding.message[:1].lower()}{finding.message[1:]}" if planting else finding.message
    fixes = [
        _fix(fix) for fix in finding.fixes if not (fix.action.startswith("start:") and fix.value < today.isoformat())
    ]
    return NoteView(number, finding.severity, planting_id, message, finding.reason, finding.source, fixes)


def preview(
    context: Context,
    bed: Bed,
    crop: Crop,
    *,
    method: Method,
    start_on: date,
    squares: str,
    per_square: int | None,
    today: date,
) -> Preview:
    """Count, dates and verdict of a crop in the chosen squares, or in one square while none is chosen."""
    grid = bed.grid()
    cells = parse_cells(squares, grid) if squares.strip() else set(grid.cells[:1])
    wanted = per_square or crop.per_square
    layout = spacing.place_in_squares(cells, grid, spacing_mm=crop.spacing_mm, per_square=wanted)
    judged = fit.judge(crop, method, start_on, context.setting)
    notes = [note(finding, number, today) for number, finding in enumerate(judged.findings, start=1)]
    if judged.verdict != "fits":
        mends = [_fix(mend) for mend in fit.mends(judged, context.setting, not_before=today)]
        first = notes[0]
        kept = [fix for fix in first.fixes if not fix.start_on]
        notes[0] = NoteView(
            first.number, first.severity, "", first.message, first.reason, first.source, [*mends, *kept]
        )
    if squares.strip():
        count = f"{words.count(layout.plants, 'plant')} in {words.count(layout.squares, 'square')}"
        if layout.left_over:
            count += f", {words.count(len(layout.left_over), 'square')} left over"
    else:
        count = "No squares chosen yet."
    return Preview(
        count=count, reading=layout.reading.words, other=_other_reading(crop, bed, wanted, context),
        dates=date_sentences(crop, method, judged.dates, None), verdict=fit.VERDICT_WORDS[judged.verdict],
        verdict_class=VERDICT_CLASS[judged.verdict], notes=notes,
    )  # fmt: skip


def date_sentences(crop: Crop, method: Method, dates: GrowthDates | None, planting: Planting | None) -> list[str]:
    """`sown 30 Mar`, `up 4 – 10 Apr`, `picked 3 – 24 Jun`: what really happened where it has, else the forecast."""
    if dates is None:
        return []
    events = planting.events if planting else {}
    started = "started" in events
    verb = {"direct": ("sow", "sown"), "cloves": ("set", "set"), "starts": ("set out", "set out"),
            "indoors": ("sow indoors", "sown indoors")}[method][started]  # fmt: skip
    found = [f"{verb} {words.short_day(events.get('started', dates.start))}"]
    if method == "indoors":
        found.append(f"set out {words.short_day(dates.bed_from)}")
    if dates.emerge_from and dates.emerge_to and "emerged" not in events:
        found.append(f"up {words.span(dates.emerge_from, dates.emerge_to)}")
    if "cleared" in events:
        found.append(f"cleared {words.short_day(events['cleared'])}")
    elif "first picking" in events:
        found.append(
            f"picked since {words.short_day(events['first picking'])}, until about {words.short_day(dates.last_pick)}"
        )
    else:
        found.append(f"first picking {words.span(dates.first_pick_early, dates.first_pick_late)}")
        found.append(f"last about {words.short_day(dates.last_pick)}")
    return found


def method_choices(crop: Crop) -> list[tuple[Method, str]]:
    return [(method, METHOD_WORDS[method]) for method in crop.methods]


def _who(planting: Planting, context: Context, today: date) -> str:
    """`planted by last year's Grade 2, now Grade 3`; a plan is for its class."""
    planted = planting.events.get("set out") or planting.events.get("started")
    who = context.who_planted(planting.class_group_id, planted or planting.start_on, today)
    if not who:
        return ""
    return f"planted by {who}" if planted else f"for {who}"


def _status(planting: Planting, here: bool) -> str:
    if here or planting.status == "in the ground":
        return planting.status
    return f"{planting.status} from {words.short_day(planting.bed_from)}"


def _other_reading(crop: Crop, bed: Bed, wanted: int | None, context: Context) -> str:
    """Where the catalogue's count and its spacing disagree, what the other one would give, and which is followed."""
    units = context.school.units
    by_spacing = spacing.read_square(crop.spacing_mm, bed.cell_mm)
    says = f"{format_length(crop.spacing_mm, units, feet=False)} apart"
    if wanted is None:
        return f"By its spacing, {says}."
    if wanted == by_spacing.per_square:
        return f"The usual square count; {says} says the same."
    whose = "The usual square count" if wanted == crop.per_square else "Your own count"
    return f"{whose} is followed; {says} would give {by_spacing.words}."


def _clashes(item: Shown, plantings: Sequence[Planting], context: Context, today: date) -> list[Finding]:
    """What the rules say of an open plan and everything in the ground of its bed."""
    mine = item.planting
    if mine.status not in ("pencilled", "planned"):
        return []
    others = [_standing(p, context, today) for p in plantings if p.status == "in the ground"]
    return bed_taken(_standing(mine, context, today), mine.method, mine.start_on, others)


def _standing(planting: Planting, context: Context, today: date) -> Standing:
    name = context.crops[planting.crop].name.en
    return Standing(name, planting.cells, planting.bed_from, planting.bed_to(today))


def _fix(fix: Fix) -> FixView:
    if fix.action.startswith("start:"):
        return FixView(fix.label, fix.action.removeprefix("start:"), fix.value, "")
    return FixView(fix.label, "", "", fix.value if fix.action == "page" else "")
