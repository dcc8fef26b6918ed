"""The form of a seed lot: what was written, and what it is filled with."""

from dataclasses import dataclass
from typing import cast
from uuid import uuid4

from almanaque.core.errors import BadInput
from almanaque.core.harvest import money as rules_of_money
from almanaque.core.seeds import seed_lots as rules
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import LotRow
from almanaque.web import forms
from almanaque.web.harvest.kept_picking import mass
from almanaque.web.request_scope import UnitOfWork, parse_day
from almanaque.web.view import View

FIELDS = (
    "id",
    "crop",
    "variety",
    "origin",
    "whom",
    "from_planting",
    "year",
    "weight",
    "seeds",
    "pelleted",
    "hybrid",
    "place",
    "where_kept",
    "packets",
    "price",
    "note",
    "got_on",
    "closed_why",
)


def read_lot(work: UnitOfWork, form: dict[str, str]) -> LotRow:
    crop = work.context.crops[form["crop"]]
    grams = mass(form["weight"], work.context.school.units) if form["weight"].strip() else None
    count = (
        forms.whole(form["seeds"].replace(",", ""), field="seeds", least=1, most=100_000_000, what="seeds")
        if form["seeds"].strip()
        else None
    )
    got_on = parse_day(form["got_on"], field="got_on") if form["got_on"] else work.today
    closed = forms.one_of(form["closed_why"], ("", "used up", "thrown away", "given away"), field="closed_why")
    packets = (
        forms.whole(form["packets"], field="packets", least=1, most=10_000, what="packets")
        if form["packets"].strip()
        else None
    )
    if count is None and grams is None and packets and crop.packet_seeds:
        count = packets * crop.packet_seeds
    known = next((lot for lot in seed_box.lots(work.connection) if str(lot.id) == form["id"]), None)
    return LotRow(
        forms.row_id(form["id"]),
        crop.key,
        forms.optional_name(form["variety"], field="variety"),
        cast(rules.Origin, forms.one_of(form["origin"], rules.ORIGINS, field="origin")),
        forms.optional_name(form["whom"], field="whom"),
        forms.optional_id(form["from_planting"]),
        forms.whole(form["year"], field="year", least=1950, most=2150, what="year_of_the_seed"),
        grams,
        count,
        form["pelleted"] == "1",
        form["hybrid"] == "1",
        cast(rules.Place, forms.one_of(form["place"], rules.PLACES, field="place")),
        forms.optional_name(form["where_kept"], field="where_kept"),
        packets,
        rules_of_money.parse(form["price"], work.context.school.currency, field="price")
        if form["price"].strip()
        else None,
        forms.optional_name(form["note"], field="note", most=400),
        got_on,
        (known.closed_on if known and known.closed_on else work.today) if closed else None,
        closed,
    )


@dataclass(frozen=True)
class LotFieldsView(View):
    """A row of `LotFormView`."""

    id: str
    origin: str
    year: str
    place: str
    got_on: str


@dataclass(frozen=True)
class LotFormView(View):
    """Filled by `lot_form`, read by its template."""

    form: dict[str, str]
    error: str
    crops: list[tuple[str, str]]
    origins: list[tuple[str, str]]
    places: list[tuple[str, str]]
    currency: str
    plantings: list[tuple[str, str]]


def lot_form(work: UnitOfWork, form: dict[str, str], *, error: BadInput | None = None) -> LotFormView:
    """What the form of a lot needs."""
    usual = LotFieldsView(
        id=str(uuid4()),
        origin="bought",
        year=str(work.today.year),
        place="cool and dry",
        got_on=work.today.isoformat(),
    )
    return LotFormView(
        form={**dict.fromkeys(FIELDS, ""), **usual, **form},
        error=error.message if error else "",
        crops=[(crop.key, crop.name.en) for crop in sorted(work.context.crops, key=lambda c: c.name.en)],
        origins=[(o, o) for o in rules.ORIGINS],
        places=[(p, p) for p in rules.PLACES],
        currency=work.context.school.currency,
        plantings=[("", "no planting of ours"), *_sources(work)],
    )


def _sources(work: UnitOfWork) -> list[tuple[str, str]]:
    """Plantings that seed may have been saved from: all that were ever in the ground, the newest first."""
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    rows = [
        p
        for p in garden.plantings(work.connection)
        if p.status in ("in the ground", "finished") and p.crop in work.context.crops
    ]
    return [
        (str(p.id), f"{work.context.crops[p.crop].name.en}, {beds[p.bed_id]}, {p.bed_from.year}")
        for p in sorted(rows, key=lambda p: p.bed_from, reverse=True)
    ]
