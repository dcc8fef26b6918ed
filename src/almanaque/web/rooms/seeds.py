"""Seeds: what the plans in pencil and ink ask for, by date and added up by crop."""

from collections import defaultdict
from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.commands import drafts
from almanaque.commands.forecasts import layout_of
from almanaque.core.crops import Crop, Method
from almanaque.core.spacing import seeds_needed
from almanaque.store import garden
from almanaque.web import frame, words
from almanaque.web.desk import Desk, may

router = APIRouter()


@router.get("/seeds")
def seeds(desk: Annotated[Desk, Depends(may("look"))]) -> Response:
    with desk.open() as room:
        beds = {bed.id: bed for bed in garden.beds(room.connection)}
        rows = []
        totals: dict[tuple[str, str], int] = defaultdict(int)
        for planting in drafts.on_table(room.connection, garden.plantings(room.connection, since=room.day)):
            if planting.status not in ("pencilled", "planned") or planting.events:
                continue
            crop, bed = room.context.crops[planting.crop], beds[planting.bed_id]
            plants = layout_of(planting, bed, crop).plants
            sown = planting.method in ("direct", "indoors")
            need = seeds_needed(plants, germination=crop.germination, survival=crop.survival) if sown else plants
            totals[crop.name.en, _kind(crop, planting.method)] += need
            rows.append(
                {
                    "by": words.short_day(planting.start_on),
                    "crop": crop.name.en,
                    "bed": bed.name,
                    "bed_id": str(bed.id),
                    "status": planting.status,
                    "plants": f"{plants:,}",
                    "need": f"{need:,} {_kind(crop, planting.method)}",
                    "why": f"{crop.germination:.0%} come up, {crop.survival:.0%} of those stay" if sown else "one each",
                }
            )
        sums = [(crop, f"{need:,} {kind}") for (crop, kind), need in sorted(totals.items())]
        return frame.page(room, "seeds", "Seeds and starts to have", {"rows": rows, "sums": sums})


def _kind(crop: Crop, method: Method) -> str:
    return {"direct": "seeds", "indoors": "seeds", "starts": "starts", "cloves": crop.stock}[method]
