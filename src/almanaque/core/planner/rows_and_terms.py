"""Offers written as a model: rows for squares, work and things, terms for what is gained or paid once."""

from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any, Literal

from almanaque.core.planner.capacity import Stay, rows_over_time
from almanaque.core.planner.model import Model, Option, SharedTerm
from almanaque.core.planner.offers import BedOffer, weights, worth
from almanaque.core.planner.problem import PlanClass, PlanProblem

FIRST_SOWING, FIRST_PICKING = 100, 100  # of a class: our own rule
ONE_MORE_FAMILY = 10  # in a bed: our own rule
NEW_KIND = 60  # of crop: our own rule
PICKED_IN_BREAK, WATERED_IN_BREAK = 30, 10  # of a bed: our own rule

Thing = Literal["squares", "minutes", "sills", "covers", "money", "picked", "watered"]


@dataclass(frozen=True)
class About:
    """What a row of the model, or a group of its terms, is about: a bed on a day (ordinal), a class in the week of a Monday, or a break."""

    thing: Thing
    bed: int | None = None
    day: int | None = None
    group: str | None = None


def model_of(problem: PlanProblem, offers: Sequence[BedOffer]) -> tuple[Model, tuple[About, ...], tuple[About, ...]]:
    """The model of a problem with its offers, and what its rows and its groups of terms are about."""
    counts = weights(problem.aims)
    rows = _Rows(len(offers))
    _rows_of_beds(problem, offers, rows)
    _rows_of_work(problem, offers, rows)
    _rows_of_things(problem, offers, rows)
    terms = _Terms(len(offers))
    _terms_of_classes(problem, offers, terms, counts["fairness"])
    terms.each(offers, lambda o: [o.candidate.crop.kind], NEW_KIND * counts["kinds"])
    terms.each(offers, lambda o: [(o.bed, o.candidate.crop.family)], -ONE_MORE_FAMILY * counts["rotation"])
    groups, about = _terms_of_breaks(problem, offers, terms, counts["summer"])
    options = tuple(
        Option(
            offer.wish,
            sum(counts[aim] * points for aim, points in worth(problem, offer).items()),
            tuple(rows.taken[at]),
            tuple(terms.counted[at]),
        )
        for at, offer in enumerate(offers)
    )
    musts = tuple(wish.weight == "must" for wish in problem.wishes)
    return Model(musts, options, tuple(rows.room), tuple(terms.terms), tuple(groups)), tuple(rows.about), tuple(about)


class _Rows:
    """Rows as they are made: their room, and what each offer takes of them."""

    def __init__(self, offers: int) -> None:
        self.room: list[int] = []
        self.about: list[About] = []
        self.taken: list[list[tuple[int, int]]] = [[] for _ in range(offers)]

    def add(self, about: About, room: int, members: Sequence[int], amounts: Sequence[int]) -> None:
        """A row with the amount that each member takes; one that can never be full is left out."""
        if sum(amounts) > room:
            row = len(self.room)
            pairs = {amount: (row, amount) for amount in set(amounts)}  # each is held once, however many take it
            for at, amount in zip(members, amounts, strict=True):
                self.taken[at].append(pairs[amount])
            self.room.append(max(0, room))
            self.about.append(about)

    def over_time(self, about: About, stays: Mapping[int, Stay], taken: Sequence[Stay], most: int) -> None:
        members, each = list(stays), list(stays.values())
        amounts = [stay.amount for stay in each]
        for row in rows_over_time(each, taken, most):
            here = row.members
            self.add(replace(about, day=row.day), row.room, [members[n] for n in here], [amounts[n] for n in here])


class _Terms:
    """Shared terms as they are made, and which each offer counts for."""

    def __init__(self, offers: int) -> None:
        self.terms: list[SharedTerm] = []
        self.counted: list[list[int]] = [[] for _ in range(offers)]

    def each(
        self,
        offers: Sequence[BedOffer],
        keys: Callable[[BedOffer], Iterable[Hashable]],
        points: int,
        group_of: Callable[[Any], int | None] = lambda _: None,
    ) -> None:
        """A term for every key that any offer has, in the group that `group_of` says for it."""
        known: dict[Hashable, int] = {}
        for at, offer in enumerate(offers):
            for key in keys(offer):
                if key not in known:
                    known[key] = len(self.terms)
                    self.terms.append(SharedTerm(points, group_of(key)))
                self.counted[at].append(known[key])


def _rows_of_beds(problem: PlanProblem, offers: Sequence[BedOffer], rows: _Rows) -> None:
    by_bed: dict[int, dict[int, Stay]] = {}
    for at, offer in enumerate(offers):
        one = offer.candidate
        by_bed.setdefault(offer.bed, {})[at] = Stay(one.first, one.last, offer.squares)
    for number, stays in by_bed.items():
        bed = problem.beds[number]
        taken = [Stay(t.starts.toordinal(), t.ends.toordinal(), len(t.cells & bed.cells)) for t in bed.taken]
        rows.over_time(About("squares", bed=number), stays, taken, len(bed.cells))


def _rows_of_work(problem: PlanProblem, offers: Sequence[BedOffer], rows: _Rows) -> None:
    """The minutes that a class has in a week, where it is limited and has lessons in it."""
    if problem.limits.minutes is None and all(one.minutes is None for one in problem.classes):
        return
    wanted: dict[tuple[str, date], dict[int, int]] = {}
    for at, offer in enumerate(offers):
        if offer.group is not None:
            for monday, minutes in offer.candidate.minutes.items():
                wanted.setdefault((offer.group, monday), {})[at] = minutes
    for (group, monday), members in wanted.items():
        room = minutes_of(problem, problem.class_of(group), monday)
        if room is not None:
            about = About("minutes", group=group, day=monday.toordinal())
            rows.add(about, room, list(members), list(members.values()))


def minutes_of(problem: PlanProblem, group: PlanClass | None, monday: date) -> int | None:
    """Minutes of work that a class has in a week; None without a limit, and in weeks without its lessons, when others do it."""
    if group is None:
        return None
    lessons = problem.calendar.lessons(monday, monday + timedelta(days=6), group_id=group.key)
    if not lessons:
        return None
    limit = group.minutes if group.minutes is not None else problem.limits.minutes
    return limit


def _rows_of_things(problem: PlanProblem, offers: Sequence[BedOffer], rows: _Rows) -> None:
    limits = problem.limits
    if limits.sill_plants is not None:
        indoors = {
            at: Stay(o.candidate.dates.start.toordinal(), o.candidate.first - 1, o.plants)
            for at, o in enumerate(offers)
            if o.candidate.method == "indoors"
        }
        rows.over_time(About("sills"), indoors, (), limits.sill_plants)
    covered = {
        at: Stay(o.candidate.first, o.candidate.dates.first_pick.toordinal(), 1)
        for at, o in enumerate(offers)
        if o.candidate.cover is not None
    }
    rows.over_time(About("covers"), covered, (), limits.row_covers)
    if limits.money is not None:
        bought = [at for at, offer in enumerate(offers) if offer.cost]
        rows.add(About("money"), limits.money, bought, [offers[at].cost for at in bought])


def _terms_of_classes(problem: PlanProblem, offers: Sequence[BedOffer], terms: _Terms, count: int) -> None:
    """Each class sows something and picks something."""
    known = {one.key for one in problem.classes}
    terms.each(offers, lambda o: [o.group] if o.group in known else [], FIRST_SOWING * count)

    def picks(offer: BedOffer) -> list[str]:
        one = offer.candidate
        return (
            [str(offer.group)]
            if offer.group in known and not one.crop.for_guests and one.crop.food_group != "not for eating"
            else []
        )

    terms.each(offers, picks, FIRST_PICKING * count)


def _terms_of_breaks(
    problem: PlanProblem, offers: Sequence[BedOffer], terms: _Terms, count: int
) -> tuple[list[int], list[About]]:
    """A bed that must be picked or watered in a break, and how many may be."""
    groups: list[int] = []
    about: list[About] = []
    limits = problem.limits
    breaks = sorted({number for offer in offers for number in offer.candidate.stands_in | offer.candidate.picked_in})
    group_of: dict[tuple[Thing, int], int] = {}
    limited: tuple[tuple[Thing, int | None], ...] = (("picked", limits.break_beds), ("watered", limits.watered_beds))
    for thing, most in limited:
        if most is None:
            continue
        for number in breaks:
            group_of[thing, number] = len(groups)
            groups.append(most)
            about.append(About(thing, day=problem.calendar.breaks[number].starts.toordinal()))
    terms.each(
        offers,
        lambda o: [(o.bed, number) for number in sorted(o.candidate.picked_in)],
        -PICKED_IN_BREAK * count,
        lambda key: group_of.get(("picked", key[1])),
    )
    terms.each(
        offers,
        lambda o: [(o.bed, number) for number in sorted(o.candidate.stands_in)],
        -WATERED_IN_BREAK * count,
        lambda key: group_of.get(("watered", key[1])),
    )
    return groups, about
