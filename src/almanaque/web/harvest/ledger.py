"""Harvest: the ledger with its purposes, products that were made, and the local price list."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated, Any, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.harvest import ledger as commands
from almanaque.core.errors import BadInput
from almanaque.core.harvest import money as rules
from almanaque.core.harvest import picking, products
from almanaque.core.harvest.money import Balance
from almanaque.core.units import format_mass
from almanaque.formats import csv_table
from almanaque.store.garden import garden
from almanaque.store.harvest import ledger
from almanaque.store.harvest.ledger import Ingredient, LedgerEntry, Price, Product, Purpose
from almanaque.web import forms, frame, words
from almanaque.web.harvest.kept_picking import mass
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
ENTRY = ("id", "kind", "purpose", "day", "what", "amount", "whom", "planting", "product")
MADE = ("id", "name", "kind", "batch", "made_on", "best_before", "amount", "unit", "recipe", "label", "read")
INGREDIENTS = 6
SHOWN = 60


@router.get("/harvest/money")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _page(work)


@router.get("/harvest/money.csv")
def as_csv(scope: Plan) -> Response:
    """The ledger with the currency in the header."""
    with scope.open() as work:
        currency = work.context.school.currency
        names = {p.id: p.name for p in ledger.purposes(work.connection)}
        header = ["day", "kind", "what", f"amount_{currency}", "from_or_to", "purpose", "taken_back_on"]
        rows = [
            [
                e.on_day.isoformat(),
                e.kind,
                e.what,
                Decimal(e.amount_minor * (-1 if e.kind == "purchase" else 1)) / 100,
                e.whom,
                names.get(e.purpose_id, "") if e.purpose_id else "",
                e.taken_back_on.isoformat() if e.taken_back_on else "",
            ]
            for e in reversed(ledger.entries(work.connection, until=work.day))
        ]
        headers = {"Content-Disposition": "attachment; filename=ledger.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/harvest/money")
def enter(scope: Plan) -> Response:
    """Keep a line of the ledger, or take one back."""
    form = {name: str(scope.request.state.form.get(name, "")) for name in ENTRY}
    back = str(scope.request.state.form.get("back", ""))
    try:
        with scope.open() as work:
            if back:
                undo = str(scope.request.state.form.get("bring_in", "")) == "1"
                ledger.take_back(work.connection, forms.row_id(back), None if undo else work.today)
            else:
                commands.enter(
                    work.connection, work.context, _entry(work, form), today=work.today, by=scope.visitor.account_id
                )
            return frame.go(work, "/harvest/money")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, entry=form, error=error, status=422)


def _entry(work: UnitOfWork, form: dict[str, str]) -> LedgerEntry:
    return LedgerEntry(
        forms.row_id(form["id"]),
        forms.optional_id(form["purpose"]),
        cast(rules.Kind, forms.one_of(form["kind"], rules.KINDS, field="kind")),
        parse_day(form["day"]) if form["day"] else work.today,
        forms.name(form["what"], field="what", what="expense", most=120),
        rules.parse(form["amount"], work.context.school.currency),
        forms.optional_name(form["whom"], field="whom"),
        product_id=forms.optional_id(form["product"]),
        planting_id=forms.optional_id(form["planting"]),
    )


class PurposeForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    goal: str = ""
    note: str = ""
    closed: str = ""


@router.post("/harvest/purposes")
def purpose(scope: Plan, form: Annotated[PurposeForm, Form()]) -> Response:
    """Keep a purpose with its goal."""
    try:
        with scope.open() as work:
            kept = Purpose(
                forms.row_id(form.id),
                forms.name(form.name),
                rules.parse(form.goal, work.context.school.currency, field="goal") if form.goal.strip() else None,
                forms.optional_name(form.note, field="note", most=400),
                work.today if form.closed == "1" else None,
            )
            ledger.save_purpose(work.connection, work.context.school.id, kept)
            return frame.go(work, "/harvest/money")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error, status=422)


@router.post("/harvest/products")
def make(scope: Plan) -> Response:
    """Keep a batch of something made."""
    sent = scope.request.state.form
    form = {name: str(sent.get(name, "")) for name in MADE}
    rows = [
        {key: str(sent.get(f"{key}-{n}", "")) for key in ("planting", "what", "weight")}
        for n in range(1, INGREDIENTS + 1)
    ]
    try:
        with scope.open() as work:
            made = _product(work, form, rows)
            commands.make(work.connection, work.context, made, today=work.today, by=scope.visitor.account_id)
            return frame.go(work, f"/harvest/products/{made.id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, made=form, rows=rows, error=error, status=422)


def _product(work: UnitOfWork, form: dict[str, str], rows: list[dict[str, str]]) -> Product:
    units = work.context.school.units
    labels = dict(_plantings(work))
    ingredients = []
    for row in rows:
        planting = forms.optional_id(row["planting"])
        what = forms.optional_name(row["what"], field="what-1") or labels.get(row["planting"], "").split(",")[0]
        if what:
            ingredients.append(
                Ingredient(planting, what, mass(row["weight"], units) if row["weight"].strip() else None)
            )
    return Product(
        forms.row_id(form["id"]),
        forms.name(form["name"]),
        cast(products.Kind, forms.one_of(form["kind"], products.KINDS, field="kind")),
        forms.name(form["batch"], field="batch", what="batch", most=30),
        parse_day(form["made_on"], field="made_on") if form["made_on"] else work.today,
        forms.optional_day(form["best_before"], field="best_before"),
        picking.parse_amount(form["amount"], form["unit"]),
        forms.name(form["unit"], field="unit", what="unit", most=20),
        forms.optional_name(form["recipe"], field="recipe", most=200),
        forms.optional_name(form["label"], field="label", most=400),
        work.today if form["read"] == "1" else None,
        tuple(ingredients),
    )


@router.get("/harvest/products/{product_id}")
def one(scope: Look, product_id: UUID) -> Response:
    """A batch with what is in it, its cautions, and a label to print."""
    with scope.open() as work:
        made = ledger.product(work.connection, product_id)
        units = work.context.school.units
        sales = [
            e
            for e in ledger.entries(work.connection, until=work.day)
            if e.product_id == product_id and e.taken_back_on is None
        ]
        values = {
            "made": made,
            "amount": f"{made.amount.normalize():f} {made.unit}",
            "ingredients": [
                (i.what, format_mass(i.grams, units) if i.grams else "", str(i.planting_id or ""))
                for i in made.ingredients
            ],
            "label": commands.label_words(made),
            "cautions": products.cautions(made.kind, for_sale=True),
            "sales": [
                (words.short_day(e.on_day), e.what, rules.write(e.amount_minor, work.context.school.currency))
                for e in sales
            ],
        }
        return frame.page(work, "harvest", made.name, values, template="harvest/product.html")


class PriceForm(BaseModel):
    """What the form sends, as it was typed."""

    crop: str = ""
    unit: str = ""
    amount: str = ""
    said_by: str = ""


@router.post("/harvest/prices")
def price(scope: Plan, form: Annotated[PriceForm, Form()]) -> Response:
    """Keep what a crop costs where the school is."""
    try:
        with scope.open() as work:
            kept = Price(
                work.context.crops[form.crop].key,
                picking.read_unit(form.unit),
                rules.parse(form.amount, work.context.school.currency, field="price"),
                forms.optional_name(form.said_by, field="said_by"),
                work.today,
            )
            ledger.save_price(work.connection, work.context.school.id, kept)
            return frame.go(work, "/harvest/money")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error, status=422)


def _page(
    work: UnitOfWork,
    *,
    entry: dict[str, str] | None = None,
    made: dict[str, str] | None = None,
    rows: list[dict[str, str]] | None = None,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    currency = work.context.school.currency
    purposes = ledger.purposes(work.connection)
    lines = ledger.entries(work.connection, until=work.day)
    names = {p.id: p.name for p in purposes}
    goals = {p.name: p.goal_minor for p in purposes}
    counted = [
        rules.MoneyEntry(e.kind, e.amount_minor, names.get(e.purpose_id, "") if e.purpose_id else "")
        for e in lines
        if e.taken_back_on is None
    ]
    balances = rules.balances(counted, goals)
    today = work.today.isoformat()
    crops = [(crop.key, crop.name.en) for crop in sorted(work.context.crops, key=lambda c: c.name.en)]
    values: dict[str, Any] = {
        "error": error.message if error else "",
        "currency": currency,
        "purposes": [_purpose(p, balances[p.name], currency) for p in purposes],
        "unbound": _unbound(balances.get(""), currency),
        "all": _all_words(list(balances.values()), currency),
        "purpose_choices": [
            ("", "nothing in particular"),
            *((str(p.id), p.name) for p in purposes if p.closed_on is None),
        ],
        "kinds": [("sale", "sale"), ("grant", "grant"), ("gift", "gift"), ("purchase", "purchase")],
        "lines": [_line(e, names, currency) for e in lines[:SHOWN]],
        "entry": {
            "id": str(uuid4()),
            "kind": "sale",
            "purpose": "",
            "day": today,
            "what": "",
            "amount": "",
            "whom": "",
            "planting": "",
            "product": "",
            **(entry or {}),
        },
        "plantings": [("", "nothing that grows here"), *_plantings(work)],
        "product_choices": [
            ("", "nothing that was made"),
            *((str(p.id), f"{p.name}, batch {p.batch}") for p in ledger.products(work.connection)),
        ],
        "made": {
            "id": str(uuid4()),
            "name": "",
            "kind": "dried",
            "batch": f"{today}-1",
            "made_on": today,
            "best_before": "",
            "amount": "",
            "unit": "jar",
            "recipe": "",
            "label": "",
            "read": "",
            **(made or {}),
        },
        "rows": rows or [{"planting": "", "what": "", "weight": ""} for _ in range(INGREDIENTS)],
        "product_kinds": [(kind, kind) for kind in products.KINDS],
        "cautions": {kind: commands.cautions(kind) for kind in products.KINDS},
        "products": [
            (str(p.id), p.name, p.batch, words.short_day(p.made_on), f"{p.amount.normalize():f} {p.unit}")
            for p in ledger.products(work.connection)
        ],
        "making": made is not None,
        "crops": crops,
        "prices": [
            (
                work.context.crops[p.crop].name.en if p.crop in work.context.crops else p.crop,
                f"{rules.write(p.price_minor, currency)} a {p.unit}",
                p.said_by,
                words.short_day(p.on_day),
            )
            for p in ledger.prices(work.connection)
        ],
        "new_id": str(uuid4()),
    }
    return frame.page(work, "harvest", "Money and made things", values, template="harvest/ledger.html", status=status)


def _plantings(work: UnitOfWork) -> list[tuple[str, str]]:
    """Plantings of this school year and the last, by crop: what can be sold or be in a batch."""
    year = work.context.calendar.year_of(work.today)
    since = date((year.starts if year else work.today).year - 1, 1, 1)
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    found = [
        (
            str(p.id),
            f"{work.context.crops[p.crop].name.en}, {beds[p.bed_id]}, {words.short_day(p.bed_from)} {p.bed_from.year}",
        )
        for p in garden.plantings(work.connection, since=since, until=work.today)
        if p.status in ("in the ground", "finished")
    ]
    return sorted(found, key=lambda pair: pair[1])


@dataclass(frozen=True)
class PurposeView(View):
    """Filled by `_purpose`, read by its template."""

    id: str
    name: str
    note: str
    closed: bool
    came: str
    spent: str
    left: str
    goal: str
    goal_typed: str
    share: str
    percent: int


def _purpose(kept: Purpose, balance: Balance, currency: str) -> PurposeView:
    share = balance.share
    return PurposeView(
        id=str(kept.id),
        name=kept.name,
        note=kept.note,
        closed=kept.closed_on is not None,
        came=rules.write(balance.came, currency),
        spent=rules.write(balance.spent, currency),
        left=rules.write(balance.left, currency),
        goal=rules.write(kept.goal_minor, currency) if kept.goal_minor else "",
        goal_typed=f"{kept.goal_minor / 100:.2f}" if kept.goal_minor else "",
        share=f"{share:.0%} of the goal has come in" if share is not None else "",
        percent=round(share * 100) if share is not None else 0,
    )


def _unbound(balance: Balance | None, currency: str) -> str:
    return f"{rules.write(balance.left, currency)} for nothing in particular" if balance else ""


def _all_words(balances: list[Balance], currency: str) -> str:
    came, spent = sum(b.came for b in balances), sum(b.spent for b in balances)
    return (
        f"{rules.write(came, currency)} came in, {rules.write(spent, currency)} was spent, "
        f"{rules.write(came - spent, currency)} is left."
    )


def _line(entry: LedgerEntry, names: dict[UUID, str], currency: str) -> dict[str, str]:
    minor = -entry.amount_minor if entry.kind == "purchase" else entry.amount_minor
    return {
        "id": str(entry.id),
        "day": f"{words.short_day(entry.on_day)} {entry.on_day.year}",
        "what": entry.what,
        "kind": entry.kind,
        "whom": entry.whom,
        "purpose": names.get(entry.purpose_id, "") if entry.purpose_id else "",
        "amount": rules.write(minor, currency),
        "back": words.short_day(entry.taken_back_on) if entry.taken_back_on else "",
        "product": str(entry.product_id or ""),
    }
