"""The plans made of a season as cards: a small map, what each gives and gives up, how near it is to the best there may be."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from almanaque.commands.planner import asking
from almanaque.core.garden.bed import Cell, parse_cells
from almanaque.core.words import terms
from almanaque.store.garden import garden, site_features
from almanaque.store.garden.garden import Bed
from almanaque.store.planner.season_plans import ProposalRow, SeasonPlanRow
from almanaque.web import words
from almanaque.web.garden import site_map_picture
from almanaque.web.garden.site_map_picture import Proposed, SiteMap
from almanaque.web.pictures.families import family
from almanaque.web.request_scope import UnitOfWork


@dataclass(frozen=True)
class Measure:
    """One thing that a plan comes to, and whether no other plan does better in it."""

    label: str
    value: str
    best: bool


@dataclass(frozen=True)
class ProposalCard:
    """One plan as a card. `state` is a sentence on how far it is, empty without anything found."""

    which: str
    name: str
    state: str
    working: bool
    failed: bool
    there: bool
    granted: str
    measures: list[Measure]
    maps: list[SiteMap]
    day: str


def cards(work: UnitOfWork, row: SeasonPlanRow, rows: Sequence[ProposalRow]) -> list[ProposalCard]:
    """A card for each of the plans; none before a plan was asked for."""
    beds = asking.used_beds(work.connection, row)
    found = [one.found for one in rows if one.found]
    return [_card(work, row, one, found, beds) for one in rows]


def _card(
    work: UnitOfWork, row: SeasonPlanRow, one: ProposalRow, every: Sequence[Mapping[str, Any]], beds: Sequence[Bed]
) -> ProposalCard:
    lines = list(one.found["placed"]) if one.found else []
    day = fullest_day(lines) or row.starts
    return ProposalCard(
        which=one.which,
        name=terms("which")[one.which],
        state=state_words(one),
        working=one.state in ("waits", "works"),
        failed=one.state == "failed",
        there=one.found is not None,
        granted=granted_words(one.found) if one.found else "",
        measures=measures(one.found, every) if one.found else [],
        maps=maps(work, row, beds, lines, day) if one.found else [],
        day=words.short_day(day),
    )


def state_words(one: ProposalRow) -> str:
    """How near a plan is to the best there may be, as it was measured."""
    if one.state == "failed":
        return "This plan could not be made. Plan it again."
    if one.proved:
        return "The best there is."
    if one.state == "waits":
        return "As it was before; it waits for its turn." if one.found else "It waits for its turn."
    if one.gap is None and one.state == "done":
        return "Stopped; this is the best that was found."
    if one.gap is None:
        return "A first plan; better ones are looked for."
    near = f"Within {max(0.1, 100 * one.gap):.1f} % of the best there may be."
    return f"{near} Better ones are looked for." if one.state == "works" else near


def granted_words(found: Mapping[str, Any]) -> str:
    """How many wishes have a place, and how many of them are likely to come true."""
    counts = found["counts"]
    return f"{counts['granted']} of {words.count(counts['wishes'], 'wish', 'wishes')}, {counts['expected']:.1f} likely to come true"


# What is told of a plan, and whether more of it is better.
MEASURES = (
    ("Classes that sow", "sowing_classes", True),
    ("Classes that pick", "picking_classes", True),
    ("Kinds of crops", "kinds", True),
    ("Beds to pick in a break", "break_beds", False),
    ("Where kin has not rested", "not_rested", False),
    ("Hours of work", "minutes", False),
)


def measures(found: Mapping[str, Any], every: Sequence[Mapping[str, Any]]) -> list[Measure]:
    """What a plan comes to, the best of all plans marked where they differ."""
    told = []
    for label, name, more in MEASURES:
        mine = found["measures"][name]
        others = [other["measures"][name] for other in every]
        best = len(set(others)) > 1 and mine == (max(others) if more else min(others))
        told.append(Measure(label, str(round(mine / 60)) if name == "minutes" else str(mine), best))
    return told


def fullest_day(lines: Sequence[Mapping[str, Any]]) -> date | None:
    """The Monday on which most squares of a plan are taken."""
    days = sorted({date.fromisoformat(line["bed_from"]) for line in lines})
    if not days:
        return None
    mondays = {day - timedelta(days=day.weekday()) + timedelta(days=7) for day in days}
    return max(sorted(mondays), key=lambda day: sum(len(line["squares"]) for line in lines if stands_on(line, day)))


def stands_on(line: Mapping[str, Any], day: date) -> bool:
    """Whether something that is proposed stands on a day."""
    return date.fromisoformat(line["bed_from"]) <= day <= date.fromisoformat(line["clear_by"])


def maps(
    work: UnitOfWork,
    row: SeasonPlanRow,
    beds: Sequence[Bed],
    lines: Iterable[Mapping[str, Any]],
    day: date,
    *,
    at_hand: bool = False,
) -> list[SiteMap]:
    """The garden with what stands, is planned in ink and is proposed on a day; what is proposed can be taken where it is `at_hand`."""
    planted: dict[str, dict[Cell, tuple[str, str]]] = {str(bed.id): {} for bed in beds}
    grids = {str(bed.id): bed.grid() for bed in beds}
    names = {str(bed.id): bed.name for bed in beds}
    proposed: dict[str, list[Proposed]] = {}
    for planting in garden.plantings(work.connection, since=day, until=day):
        key = str(planting.bed_id)
        if planting.status in ("planned", "in the ground") and key in planted:
            crop = work.context.crops[planting.crop]
            planted[key].update({cell: (family(crop.family).fill, crop.code) for cell in planting.cells})
    for line in lines:
        if line["bed"] in planted and stands_on(line, day) and line["crop"] in work.context.crops:
            crop = work.context.crops[line["crop"]]
            cells = parse_cells(" ".join(line["squares"]), grids[line["bed"]])
            if at_hand and not line["filling"]:
                said = f"{crop.name.en} in {names[line['bed']]}, {words.count(len(cells), 'square')}"
                one = Proposed(line["key"], said, family(crop.family).fill, crop.code, frozenset(cells))
                proposed.setdefault(line["bed"], []).append(one)
            else:
                planted[line["bed"]].update({cell: (family(crop.family).fill, crop.code) for cell in cells})
    features = site_features.features(work.connection, max(day, row.starts))
    sites = [site for site in garden.sites(work.connection) if any(bed.site_id == site.id for bed in beds)]
    return [
        site_map_picture.draw(
            site,
            beds,
            features,
            units=work.context.school.units,
            words={str(bed.id): "" for bed in beds},
            short={str(bed.id): "" for bed in beds},
            planted=planted,
            proposed=proposed,
        )
        for site in sites
    ]
