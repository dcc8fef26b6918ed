"""Seeds: what the plans ask for by date, what to buy, which plantings give seed, how much planting stock to keep."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Depends, Response

from almanaque.commands.seeds import seed_box as commands
from almanaque.commands.seeds import what_to_buy
from almanaque.core.errors import BadInput
from almanaque.core.garden import needs
from almanaque.core.harvest import money
from almanaque.core.seeds import planting_stock
from almanaque.core.seeds import seed_lots as rules
from almanaque.core.units import Units, format_mass
from almanaque.data import planting_stock as stock_table
from almanaque.data import seed_saving
from almanaque.formats import csv_table
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]


@router.get("/seeds")
def seeds(scope: Look) -> Response:
    """What the plans ask for, by date."""
    with scope.open() as work:
        garden.beds(work.connection)
        rows = []
        totals: dict[tuple[str, str], int] = {}
        for plan in what_to_buy.asked(work.connection, work.context, since=work.day):
            crop, method = plan.crop, plan.planting.method
            need, kind = plan.pieces, needs.piece_name(crop, method)
            key = (crop.name.en, kind)
            totals[key] = totals.get(key, 0) + need
            rows.append(
                {
                    "by": words.short_day(plan.planting.start_on),
                    "crop": crop.name.en,
                    "bed": plan.bed.name,
                    "bed_id": str(plan.bed.id),
                    "status": plan.planting.status,
                    "plants": f"{plan.plants:,}",
                    "need": f"{need:,} {kind}",
                    "why": f"{crop.germination:.0%} come up, {crop.survival:.0%} of those stay"
                    if plan.sown
                    else ("one in twenty to spare" if method == "starts" else "one each"),
                }
            )
        sums = [(crop, f"{need:,} {kind}") for (crop, kind), need in sorted(totals.items())]
        return frame.page(work, "seeds", "Seeds and starts to have", {"rows": rows, "sums": sums})


@router.get("/seeds/order")
def order(scope: Look, by: str = "") -> Response:
    """What to buy for the pencilled season, less what is in the box: seed, and all that is set; by crop or by supplier."""
    with scope.open() as work:
        lines = what_to_buy.order(work.connection, work.context, since=work.day, today=work.today)
        bought = what_to_buy.suppliers_of(seed_box.lots(work.connection))
        total = sum(line.price_minor or 0 for line in lines)
        unpriced = sum(line.buy > 0 and line.price_minor is None for line in lines)
        currency = work.context.school.currency
        cost = f"{money.write(total, currency)} at the prices last paid" if total else ""
        if cost and unpriced:
            cost += f"; {words.count(unpriced, 'line')} without a price"
        rows = [_line(work, line, bought.get(line.crop.key, "")) for line in lines]
        if by == "supplier":
            rows.sort(key=lambda row: (not row.bought, row.supplier == "", row.supplier, row.crop))
        values = {
            "rows": rows,
            "cost": cost,
            "by_supplier": by == "supplier",
            "starts": [
                {
                    "crop": line.crop.name.en,
                    "what": f"{line.pieces:,} {line.what}",
                    "plants": f"{line.plants:,}",
                    "by": words.short_day(line.by),
                    "beds": ", ".join(line.beds),
                    "supplier": bought.get(line.crop.key, ""),
                }
                for line in what_to_buy.starts(work.connection, work.context, since=work.day)
            ],
        }
        return frame.page(work, "seeds", "What to buy", values, template="seeds/what_to_buy.html")


@router.get("/seeds/order.csv")
def order_as_csv(scope: Look) -> Response:
    """The lines to buy, by crop, with units in the header."""
    with scope.open() as work:
        currency = work.context.school.currency
        header = [
            "crop",
            "botanical_name",
            "kind",
            "supplier",
            "plants",
            "seeds_needed",
            "seeds_there",
            "seeds_to_buy",
            "packets",
            "seeds_in_packet",
            "grams",
            f"price_{currency}",
            "by",
            "to_have",
        ]
        bought = what_to_buy.suppliers_of(seed_box.lots(work.connection))
        rows: list[list[object]] = [
            [
                line.crop.name.en,
                line.crop.botanical,
                "seeds",
                bought.get(line.crop.key, ""),
                line.plants,
                line.need,
                line.have,
                line.buy,
                line.packets,
                line.crop.packet_seeds,
                line.grams,
                f"{line.price_minor / 100:.2f}" if line.price_minor else "",
                line.by,
                line.buy,
            ]
            for line in what_to_buy.order(work.connection, work.context, since=work.day, today=work.today)
            if line.buy
        ]
        rows += [
            [
                line.crop.name.en,
                line.crop.botanical,
                line.what,
                bought.get(line.crop.key, ""),
                line.plants,
                "",
                "",
                "",
                "",
                "",
                "",
                "",
                line.by.isoformat(),
                line.pieces,
            ]
            for line in what_to_buy.starts(work.connection, work.context, since=work.day)
        ]
        headers = {"Content-Disposition": "attachment; filename=seed-order.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


@dataclass(frozen=True)
class SeedLineView(View):
    """Filled by `_line`, read by its template."""

    key: str
    crop: str
    plants: str
    need: str
    have: str
    buy: str
    packets: str
    grams: str
    why: str
    price: str
    by: str
    bought: bool
    supplier: str


def _line(work: UnitOfWork, line: rules.OrderLine, supplier: str) -> SeedLineView:
    packets = "–" if not line.buy else words.count(line.packets, "packet") if line.packets else "by weight"
    if line.buy and line.packets and line.crop.packet_seeds:
        packets += f" of {line.crop.packet_seeds}"
    return SeedLineView(
        key=line.crop.key,
        crop=line.crop.name.en,
        plants=f"{line.plants:,}",
        need=f"{line.need:,}",
        have=f"{line.have:,}",
        buy=f"{line.buy:,}" if line.buy else "enough",
        packets=packets,
        grams=_weight(line.grams, work.context.school.units) if line.buy and line.grams else "",
        why=line.why,
        price=money.write(line.price_minor, work.context.school.currency) if line.price_minor else "",
        by=words.short_day(date.fromisoformat(line.by)) if line.by else "",
        bought=line.buy > 0,
        supplier=supplier,
    )


def _weight(grams: float, units: Units) -> str:
    """A weight of seed in the school's units; little of it is said to be little."""
    said = format_mass(grams, units)
    return (
        f"under {said.replace('0.0', '0.1', 1).replace('0 g', '1 g', 1)}" if said.startswith(("0.0 ", "0 g")) else said
    )


@router.get("/seeds/saving")
def saving(scope: Look) -> Response:
    """Which plantings in the ground give seed worth saving, and how."""
    with scope.open() as work:
        rows = [
            {
                "id": str(s.planting.id),
                "name": s.crop.name.en + (f" {s.planting.variety}" if s.planting.variety else ""),
                "bed": s.bed.name,
                "sign": s.saving.sign,
                "how": s.saving.how,
                "good": s.good,
                "fault": s.findings[0].severity == "fault",
                "findings": s.findings,
                "crop": s.crop.key,
                "ending": s.planting.status,
            }
            for s in commands.savable(work.connection, work.context, work.day)
        ]
        table = seed_saving()
        others = sorted(
            crop.name.en
            for crop in work.context.crops
            if crop.kind in table and crop.key == crop.kind and table[crop.kind].pollinated == "self"
        )
        return frame.page(
            work,
            "seeds",
            "Saving seed",
            {"rows": rows, "easy": others, "new_id": str(uuid4())},
            template="seeds/seed_saving.html",
        )


@router.get("/seeds/stock")
def stock(scope: Look, crop: str = "garlic", wanted: str = "", per_unit: str = "", growing: str = "") -> Response:
    """How many bulbs or tubers to keep for next year's head count."""
    with scope.open() as work:
        table = stock_table()
        kind = work.context.crops[crop].kind if crop in work.context.crops else "garlic"
        chosen = kind if kind in table else "garlic"
        multiplies = table[chosen]
        heads = sum(g.head_count for g in work.context.groups_on(work.today) if g.kind == "class")
        form = {
            "crop": chosen,
            "wanted": wanted or str(heads or 20),
            "per_unit": per_unit or str(multiplies.pieces[0]),
            "growing": growing or "90",
        }
        said, error = "", ""
        try:
            kept = planting_stock.keep(
                _whole(form["wanted"]), per_unit=_whole(form["per_unit"]), survival=_whole(form["growing"]) / 100
            )
            unit = multiplies.unit if kept.units == 1 else f"{multiplies.unit}s"
            again = planting_stock.from_pieces(kept.pieces, table, chosen)
            said = (
                f"Keep {kept.units:,} {unit} with {kept.per_unit} {multiplies.piece}s each: "
                f"{kept.pieces:,} to set, so that {form['wanted']} grow."
            )
            if again:
                said += (
                    f" From those a next harvest gives about {again[0]:,} to {again[1]:,} {multiplies.piece}s to set."
                )
        except BadInput as refused:
            error = refused.message
        values = {
            "form": form,
            "said": said,
            "error": error,
            "unit": multiplies.unit,
            "piece": multiplies.piece,
            "usual": f"{multiplies.pieces[0]} to {multiplies.pieces[1]}"
            if multiplies.pieces[0] != multiplies.pieces[1]
            else str(multiplies.pieces[0]),
            "crops": [(key, work.context.crops[key].name.en) for key in table if key in work.context.crops],
            "heads": heads,
            "groups": [
                (work.context.group_names(work.today)[str(g.id)], g.head_count)
                for g in work.context.groups_on(work.today)
                if g.kind == "class"
            ],
        }
        return frame.page(
            work, "seeds", "Planting stock", values, template="seeds/planting_stock.html", status=422 if error else 200
        )


def _whole(text: str) -> int:
    plain = text.strip().replace(",", "")
    if not (plain.isascii() and plain.isdigit()) or len(plain) > 7:
        raise BadInput("seeds.not_whole_numbers")
    return int(plain)
