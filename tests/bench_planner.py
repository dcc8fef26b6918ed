"""Figures of the planner for `./almanaque bench`: how soon a first plan, how near to the bound and when, why not, again, memory."""

import json
import subprocess
import sys
import time
from dataclasses import replace
from datetime import date
from datetime import time as clock

import numpy as np

from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.rotation import Stood
from almanaque.core.growth.setting import Setting
from almanaque.core.planner import plan
from almanaque.core.planner.problem import PlanBed, PlanClass, PlanLimits, PlanProblem, PlanSpan, Wish
from almanaque.core.planner.why_not import why_not
from almanaque.core.school.school_year import Calendar, Slot
from almanaque.data import catalogue
from tests import places
from tests.bench_fit import row, timed

SIZES = ((13, 40), (13, 80), (30, 120), (60, 200))
FAMILIES = ("Brassicaceae", "Solanaceae", "Fabaceae", "Apiaceae", "Amaryllidaceae", "Cucurbitaceae")


def garden_of(beds: int, wishes: int, *, minutes: int | None, seed: int = 1) -> PlanProblem:
    """A garden drawn at random: beds of two sizes, three depths, three kinds of light, with what stood there; wishes for any crop."""
    random = np.random.default_rng(seed)
    groups = max(7, wishes // 8)
    slots = [Slot(f"g{n}", n % 5, clock(8 + n // 5), 45) for n in range(groups)]
    calendar = Calendar(places.YEARS, slots).carried_on
    setting = Setting(calendar, places.hard_winters(), "us")
    made = []
    for number in range(beds):
        grid = grid_of(2438.4, 1219.2, 304.8) if random.random() < 0.6 else grid_of(1219.2, 1219.2, 304.8)
        history = [
            Stood(
                str(random.choice(FAMILIES)), "", frozenset(grid.cells), date(2026 - int(random.integers(0, 3)), 9, 1)
            )
            for _ in range(2)
        ]
        made.append(
            PlanBed(
                f"b{number}",
                f"Bed {number}",
                grid,
                frozenset(grid.cells),
                setting,
                depth_mm=float(random.choice([200, 280, 300])),
                sun_h=(float(random.choice([5.5, 7, 8])),) * 12,
                group=f"g{int(random.integers(groups))}",
                history=history,
            )
        )
    crops = [crop.key for crop in catalogue() if crop.life != "perennial" and crop.group != "cover crops"]
    asked = [
        Wish(
            f"w{n}",
            f"wish {n}",
            (str(random.choice(crops)),),
            squares=int(random.integers(1, 9)),
            group=f"g{int(random.integers(groups))}" if random.random() < 0.7 else None,
            weight=("must", "would like", "would like", "would like", "if room")[int(random.integers(5))],  # type: ignore[arg-type]
            votes=int(random.integers(0, 30)),
        )
        for n in range(wishes)
    ]
    return PlanProblem(
        catalogue(),
        calendar,
        date(2027, 1, 11),
        PlanSpan(date(2027, 2, 1), date(2027, 11, 30)),
        tuple(made),
        tuple(PlanClass(f"g{n}", f"Grade {n}", 24) for n in range(groups)),
        tuple(asked),
        PlanLimits(minutes=minutes),
    )


def sizes() -> None:
    """Each size in a process of its own, as the worker does it, without and with a limit on the work of classes."""
    for beds, wishes in SIZES:
        for minutes in (None, 90):
            words = [sys.executable, "-m", "tests.bench_planner", str(beds), str(wishes), str(minutes or 0)]
            done = subprocess.run(words, capture_output=True, text=True, check=True)
            told = json.loads(done.stdout)
            limit = ", 90 minutes a class and week" if minutes else ""
            name = f"plan: {beds} beds, {wishes} wishes{limit}"
            near = ", ".join(f"{share} % after {took:.1f} s" for share, took in told["near"].items())
            words_of = (
                f"first {told['first']:.2f} s; ends {told['gap']:.2f} % from the bound{' (proved)' if told['proved'] else ''}; "
                f"{near}; why not {told['why']:.2f} s; again {told['again']:.1f} s; {told['memory']:.0f} MB"
            )
            row(name, told["end"], words_of)


def one(beds: int, wishes: int, minutes: int) -> dict[str, object]:
    """One size: seconds until the first plan, the end and each share of the gap, of one why not, and of planning again."""
    import resource

    problem = garden_of(beds, wishes, minutes=minutes or None)
    plan.first(replace(problem, wishes=problem.wishes[:3]))  # weather and tables are read
    first = timed(lambda: plan.first(problem), rounds=1)
    began = time.perf_counter()
    near: dict[str, float] = {}
    last: plan.Progress | None = None
    for last in plan.progress(problem):
        for share in (5, 3, 2):
            if last.step.gap <= share / 100:
                near.setdefault(str(share), time.perf_counter() - began)
    end = time.perf_counter() - began
    assert last is not None
    found = plan.proposal(last)
    known = last.options.problem.wishes
    left = [known.index(out.wish) for out in found.left][:5]
    asked = time.perf_counter()
    for number in left:
        why_not(last.options, last.step.chosen, number)
    why = (time.perf_counter() - asked) / max(1, len(left))
    shut = replace(problem.beds[0], promised=(), closed=(), cells=frozenset())
    changed = replace(problem, beds=(shut, *problem.beds[1:]), before=found.ways)
    again = time.perf_counter()
    plan.plan(changed, rounds=8)
    took = time.perf_counter() - again
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    gap = 100 * last.step.gap
    return {
        "first": first,
        "end": end,
        "gap": gap,
        "proved": last.step.proved,
        "near": near,
        "why": why,
        "again": took,
        "memory": memory,
    }


if __name__ == "__main__":
    print(json.dumps(one(*(int(text) for text in sys.argv[1:4]))))
