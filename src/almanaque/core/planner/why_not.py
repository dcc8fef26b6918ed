"""Why a wish has no place, and what would let it in: the fewest things in its way, what it would cost the others, the cheapest change.

A wish that some option could grant is forced in and the part of the plan around it chosen anew, with as little moved as can be. One that
has no option at all is asked again with a closing, a promise, a limit or its day away.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

from almanaque.core.findings import Finding
from almanaque.core.planner import bars, greedy
from almanaque.core.planner.model import Model
from almanaque.core.planner.offers import BedOffer
from almanaque.core.planner.options import Options, options_of
from almanaque.core.planner.problem import Decided, PlanProblem, Wish
from almanaque.core.planner.rows_and_terms import About, minutes_of

OURS = "own_rule"
AROUND = 28  # wishes that may move or go when one is forced in: our own choice
PLACES = 24  # options of the forced wish that are tried: our own choice
MOVING = 0.05  # of the least that a wish is worth: what it costs to move one, so that none is moved for nothing: our own choice


@dataclass(frozen=True)
class Blocked:
    """An option with the rows and groups that have no room for it, and the wishes that hold that room."""

    option: int
    in_its_way: tuple[About, ...]
    holders: tuple[int, ...]


def why_not(options: Options, chosen: Sequence[int], number: int) -> list[Finding]:
    """What bars a wish that the plan leaves out, then what would let it in. Raises IndexError for a wish that is none."""
    problem = options.problem
    if problem.wishes[number].key in problem.decided.rubbed_out:
        return [*bars.of_wish(options, number)]
    if not options.model.of_wish[number]:
        return [*bars.of_wish(options, number), *_asked_again(options, chosen, number)]
    blocked = least_blocked(options, chosen, number)
    return [*_in_its_way(options, blocked, number), *_let_in(options, chosen, number, blocked)]


def least_blocked(options: Options, chosen: Sequence[int], number: int) -> Blocked:
    """The option of a wish with the fewest things in its way; of those alike the one that is worth most."""
    model = options.model
    choosing = greedy.Choosing(model, chosen)
    rows = {row for option in model.of_wish[number] for row, _ in model.options[option].takes}
    holding: dict[int, list[int]] = {row: [] for row in rows}
    for at in chosen:
        for row, _ in model.options[at].takes:
            if row in holding:
                holding[row].append(at)
    best: tuple[tuple[int, int, int], Blocked] | None = None
    for at in model.of_wish[number]:
        full = [row for row, amount in model.options[at].takes if choosing.room[row] < amount]
        groups = [
            group
            for number_of_term in model.options[at].counts_for
            if (group := model.terms[number_of_term].group) is not None
            and not choosing.counts[number_of_term]
            and choosing.groups[group] < 1
        ]
        holders = {options.offers[h].wish for row in full for h in holding[row]}
        things = _joined([options.rows[row] for row in full] + [options.groups[group] for group in groups])
        rank = (len(things), -model.worth(at), at)
        if best is None or rank < best[0]:
            best = rank, Blocked(at, things, tuple(sorted(holders)))
    assert best is not None
    return best[1]


def _joined(things: Sequence[About]) -> tuple[About, ...]:
    """The things in the way, a bed once, with the first day on which it is full."""
    found: dict[tuple[str, int | None, str | None, int | None], About] = {}
    for thing in things:
        key = (thing.thing, thing.bed, thing.group, None if thing.thing == "squares" else thing.day)
        if key not in found or (thing.day or 0) < (found[key].day or 0):
            found[key] = thing
    return tuple(found.values())


def _in_its_way(options: Options, blocked: Blocked, number: int) -> Iterator[Finding]:
    problem, offer = options.problem, options.offers[blocked.option]
    text = problem.wishes[number].text
    if not blocked.in_its_way:
        yield Finding("wish_left_out", "note", text, {}, OURS, case="adds_nothing")
    for thing in blocked.in_its_way:
        day = date.fromordinal(thing.day) if thing.day else offer.candidate.dates.bed_from
        group = problem.class_of(thing.group)
        holders = [
            problem.wishes[wish].text
            for wish in blocked.holders
            if thing.thing not in ("squares", "minutes") or _holds(options, wish, thing)
        ]
        yield Finding(
            "wish_left_out",
            "care",
            text,
            {
                "bed": problem.beds[offer.bed].name,
                "day": day,
                "group": group.name if group else "",
                "others": holders[: bars.BEDS_NAMED],
                "crop": offer.candidate.crop.name.en.lower(),
            },
            OURS,
            case=f"no_{thing.thing}",
        )


def _holds(options: Options, wish: int, thing: About) -> bool:
    """Whether a wish could be what holds the room of a thing: its options take of a row about it."""
    return any(
        options.rows[row] == thing or (options.rows[row].thing == "squares" and options.rows[row].bed == thing.bed)
        for at in options.model.of_wish[wish]
        for row, _ in options.model.options[at].takes
    )


def _let_in(options: Options, chosen: Sequence[int], number: int, blocked: Blocked) -> Iterator[Finding]:
    """What becomes of the others when it is let in, and the change by which they need not give way."""
    problem = options.problem
    wish = problem.wishes[number]
    forced = _forced(options, chosen, number)
    if forced is not None:
        now = {options.offers[at].wish: at for at in forced}
        before = {options.offers[at].wish: at for at in chosen}
        offer = options.offers[now[number]]
        gone = [w for w in before if w not in now]
        moved = [w for w, at in before.items() if w in now and now[w] != at]
        yield Finding(
            "wish_enters",
            "note",
            wish.text,
            {
                "bed": problem.beds[offer.bed].name,
                "start": offer.candidate.dates.start,
                "others": [problem.wishes[w].text for w in (gone or moved)[: bars.BEDS_NAMED]],
            },
            OURS,
            case="beside" if gone else "moved" if moved else "free",
        )
        if not gone:
            return
    minutes = [thing for thing in blocked.in_its_way if thing.thing == "minutes"]
    if minutes and len(minutes) == len(blocked.in_its_way) == 1:
        yield _more_work(options, chosen, number, blocked, minutes[0])
        return
    offer = options.offers[blocked.option]
    if any(thing.thing == "squares" for thing in blocked.in_its_way) and len(blocked.in_its_way) == 1:
        yield Finding(
            "wish_enters",
            "note",
            wish.text,
            {
                "bed": problem.beds[offer.bed].name,
                "free": offer.candidate.dates.bed_from,
                "until": offer.candidate.dates.clear_by,
                "squares": offer.squares,
            },
            OURS,
            case="more_squares",
        )


def _more_work(options: Options, chosen: Sequence[int], number: int, blocked: Blocked, thing: About) -> Finding:
    problem, model = options.problem, options.model
    choosing = greedy.Choosing(model, chosen)
    row = options.rows.index(thing)
    wanted = dict(model.options[blocked.option].takes)[row]
    group = problem.class_of(thing.group)
    return Finding(
        "wish_enters",
        "note",
        problem.wishes[number].text,
        {
            "group": group.name if group else "",
            "minutes": wanted - int(choosing.room[row]),
            "monday": date.fromordinal(thing.day or 1),
            "bed": problem.beds[options.offers[blocked.option].bed].name,
        },
        OURS,
        case="more_work",
    )


def _forced(options: Options, chosen: Sequence[int], number: int) -> list[int] | None:
    """The plan with a wish in it at all costs, the part around it chosen anew; None where no part is found that has room."""
    from almanaque.core.planner import neighbourhoods  # takes a while to read, and is asked for seldom

    model = options.model
    mine = sorted(model.of_wish[number], key=lambda at: (-model.worth(at), at))[:PLACES]
    rows = {row for at in mine for row, _ in model.options[at].takes}
    sharing = sorted(
        (at for at in chosen if any(row in rows for row, _ in model.options[at].takes)),
        key=lambda at: (-sum(row in rows for row, _ in model.options[at].takes), at),
    )
    around = {model.options[at].wish for at in sharing if at not in options.keep}
    part = {number, *sorted(around)[:AROUND]}
    others = [at for wish in part if wish != number for at in _near_to_now(model, chosen, wish)]
    least = min((abs(model.options[at].points) for at in chosen), default=1)
    solved = neighbourhoods.best_of_part(
        model, chosen, part, [*mine, *others], stay_points=max(1, round(MOVING * least)), granted=(number,)
    )
    return solved.chosen if any(model.options[at].wish == number for at in solved.chosen) else None


def _near_to_now(model: Model, chosen: Sequence[int], wish: int) -> list[int]:
    """The options of a wish that are worth most, with the one that it has."""
    best = sorted(model.of_wish[wish], key=lambda at: (-model.worth(at), at))[:PLACES]
    return [*best, *(at for at in chosen if model.options[at].wish == wish and at not in best)]


def _asked_again(options: Options, chosen: Sequence[int], number: int) -> Iterator[Finding]:
    """For a wish without any option: the first of a few changes with which it would have one that fits beside the plan."""
    problem, wish = options.problem, options.problem.wishes[number]
    for case, asked in _changes(problem, wish):
        offers = [offer for offer in options_of(asked).offers if _fits_beside(options, chosen, offer)]
        if not offers:
            continue
        offer = max(offers, key=lambda one: (one.candidate.promise, -one.candidate.first, -one.bed))
        dates = offer.candidate.dates
        yield Finding(
            "wish_enters",
            "note",
            wish.text,
            {
                "bed": problem.beds[offer.bed].name,
                "start": dates.start,
                "free": dates.bed_from,
                "until": dates.clear_by,
                "ready": dates.first_pick,
                "share": round(100 * offer.candidate.chance),
            },
            OURS,
            case=case,
        )
        return


def _fits_beside(options: Options, chosen: Sequence[int], offer: BedOffer) -> bool:
    """Whether there are squares and, where they are limited, minutes for one more beside a choice."""
    problem = options.problem
    bed = problem.beds[offer.bed]
    beside = [options.offers[at] for at in chosen]
    stays = [(one.candidate.first, one.candidate.last, one.squares) for one in beside if one.bed == offer.bed] + [
        (t.starts.toordinal(), t.ends.toordinal(), len(t.cells & bed.cells)) for t in bed.taken
    ]
    first, last = offer.candidate.first, offer.candidate.last
    days = [first, *(day for day, _, _ in stays if first <= day <= last)]
    if any(sum(n for f, t, n in stays if f <= day <= t) + offer.squares > len(bed.cells) for day in days):
        return False
    group = problem.class_of(offer.group)
    for monday, minutes in offer.candidate.minutes.items():
        room = minutes_of(problem, group, monday)
        spent = sum(one.candidate.minutes.get(monday, 0) for one in beside if one.group == offer.group)
        if room is not None and spent + minutes > room:
            return False
    return True


def _changes(problem: PlanProblem, wish: Wish) -> Iterator[tuple[str, PlanProblem]]:
    """The same problem with one thing less in the way, the cheapest change first."""
    if not problem.limits.row_covers:
        yield "covered", _only(replace(problem, limits=replace(problem.limits, row_covers=1)), wish)
    opened = tuple(replace(bed, closed=(), promised=()) for bed in problem.beds)
    yield "if_free", _only(replace(problem, beds=opened), wish)
    if problem.span.free_from is not None:
        yield "if_free", _only(replace(problem, span=replace(problem.span, free_from=None)), wish)
    if wish.ready_by is not None:
        yield "another_day", _only(problem, replace(wish, ready_by=None, ready_to=None))


def _only(problem: PlanProblem, wish: Wish) -> PlanProblem:
    """The problem with this wish alone; the others are held to the plan by what they take of the room."""
    return replace(problem, wishes=(wish,), decided=Decided(), before={})
