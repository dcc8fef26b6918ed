"""What bars a wish, as findings: the rule that its nearest way met, and by bed what stands against it."""

from collections.abc import Iterator
from datetime import date

from almanaque.core.findings import Finding, Fix
from almanaque.core.planner.bed_rules import ORDER, Bar
from almanaque.core.planner.candidates import SowingCandidate
from almanaque.core.planner.options import Options
from almanaque.core.words import Phrase

OURS = "own_rule"
BEDS_NAMED = 3  # of those that a bar is told of: our own choice


def of_wish(options: Options, number: int) -> Iterator[Finding]:
    """Why a wish has no place: no way at all, no bed for it, or nothing left beside what counts more."""
    problem = options.problem
    wish = problem.wishes[number]
    if wish.key in problem.decided.rubbed_out:
        yield Finding("wish_left_out", "note", wish.text, {}, OURS, case="rubbed_out")
        return
    found = options.bars.get(number)
    if found is None:
        yield Finding("wish_left_out", "note", wish.text, {}, OURS, case="no_room_beside")
        return
    if found.nearest is not None:
        judged, chance = found.nearest.judged, found.nearest.chance
        when = judged.dates.start
        against = next((f for f in judged.findings if f.severity != "note"), None)
        if chance is None and against is not None:
            yield Finding(
                "wish_barred",
                "care",
                wish.text,
                {"start": when, "crop": judged.crop.name.en.lower(), "why": against.phrase},
                OURS,
                case="no_day",
            )
        else:
            yield Finding(
                "wish_barred",
                "care",
                wish.text,
                {"start": when, "crop": judged.crop.name.en.lower(), "share": round(100 * (chance or 0.0))},
                OURS,
                (Fix("later_day_or_quicker"),),
                case="not_ready" if wish.ready_by else "seldom",
            )
        return
    if not found.by_bed:
        yield Finding("wish_barred", "care", wish.text, {}, OURS, case="no_way")
        return
    for bar in reversed(ORDER):
        beds = [(key, one) for key, (name, one) in found.by_bed.items() if name == bar]
        if beds:
            yield _of_beds(options, number, bar, beds)


def _named(beds: list[str]) -> list[str | Phrase]:
    """The first of them, and how many more there are."""
    named: list[str | Phrase] = [*beds[:BEDS_NAMED]]
    if len(beds) == BEDS_NAMED + 1:
        named.append(beds[-1])
    elif len(beds) > BEDS_NAMED:
        named.append(Phrase("findings.part.more_beds", {"n": len(beds) - BEDS_NAMED}))
    return named


def _of_beds(options: Options, number: int, bar: Bar, beds: list[tuple[str, SowingCandidate]]) -> Finding:
    names = {bed.key: bed.name for bed in options.problem.beds}
    one = beds[0][1]
    return Finding(
        "wish_barred",
        "care",
        options.problem.wishes[number].text,
        {
            "beds": _named([names[key] for key, _ in beds]),
            "crop": one.crop.name.en.lower(),
            "bed_from": one.dates.bed_from,
            "until": min(one.dates.clear_by, date(one.dates.bed_from.year + 2, 1, 1)),
        },
        OURS,
        case=bar,
    )
