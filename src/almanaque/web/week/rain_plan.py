"""Week: what waits when it rains, and what can be done indoors instead."""

from collections.abc import Iterable
from dataclasses import dataclass

from almanaque.core.week import rain_plan
from almanaque.core.week.rain_plan import ToSow
from almanaque.store.garden import garden
from almanaque.store.week.tasks import Task
from almanaque.web import frame, words
from almanaque.web.request_scope import UnitOfWork
from almanaque.web.view import View

SHOWN = 4


@dataclass(frozen=True)
class RainyView(View):
    """Filled by `rainy`, read by its template."""

    waits: str
    mats: list[tuple[str, str]]


def rainy(work: UnitOfWork, jobs: Iterable[Task]) -> RainyView | None:
    """How many of the week's jobs wait, and the mats to make, each with its link; None when there is neither."""
    waiting = [t for t in jobs if t.status == "open" and rain_plan.waits(t.step)]
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    sowings = [
        ToSow(str(p.bed_id), beds[p.bed_id], work.context.crops[p.crop].name.en, p.start_on)
        for p in garden.plantings(work.connection, since=work.day, until=work.day + rain_plan.MATS_AHEAD)
        if p.method == "direct" and p.status == "planned" and not p.events
    ]
    mats = rain_plan.mats(sowings, work.day)[:SHOWN]
    if not waiting and not mats:
        return None
    return RainyView(
        waits=f"{words.count(len(waiting), 'job')} of this week {'waits' if len(waiting) == 1 else 'wait'} for dry soil"
        if waiting
        else "",
        mats=[
            (
                f"{s.crop}, {s.bed}, for {words.short_day(s.sow_on)}",
                frame.address(work, f"/garden/beds/{s.bed_id}/mats", on=s.sow_on.isoformat()),
            )
            for s in mats
        ],
    )
