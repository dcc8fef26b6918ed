"""Year: the crops. All of them in a list, each on one sheet for a class, and the school's own figures, varieties and crops."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Depends, Response
from fastapi.responses import JSONResponse

from almanaque.commands.crops import own_crops as commands
from almanaque.commands.garden import neighbour_trials
from almanaque.core.crops.crop import Crop
from almanaque.core.crops.crop_fields import ENTRIES, GROUPS, CropField
from almanaque.core.crops.crop_form import written
from almanaque.core.garden.companions import Pair
from almanaque.core.growth import plant_height
from almanaque.core.growth.school_fit import dates_at
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.portrait.picture import Stage
from almanaque.core.words import terms
from almanaque.data import crop_names, native_range
from almanaque.data import portraits as plant_traits
from almanaque.formats.crops import portraits
from almanaque.store.crops import own_crops
from almanaque.web import frame, words
from almanaque.web.crops.crop_facts import GROUP_WORDS, FactGroup, group_words, groups_of
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
CURVE_WIDTH, CURVE_HEIGHT, CURVE_POINTS = 420.0, 110.0, 40
WEEKS = 52


@router.get("/year/crops")
def crops(scope: Look, find: str = "") -> Response:
    """All crops by their kind."""
    with scope.open() as work:
        wanted = find.strip().lower()
        shown = [c for c in work.context.crops if wanted in f"{c.name.en} {c.name.es} {c.botanical} {c.family}".lower()]
        groups: dict[str, list[dict[str, Any]]] = {}
        for crop in sorted(shown, key=lambda c: c.name.en):
            groups.setdefault(crop.group, []).append(
                {
                    "key": crop.key,
                    "name": crop.name.en,
                    "es": crop.name.es,
                    "botanical": crop.botanical,
                    "code": crop.code,
                    "hatch": family(crop.family),
                    "own": bool(crop.own),
                    "picture": portraits.address(crop, "emblem", px=24),
                }
            )
        values = {
            "groups": [(group_words(name), groups[name]) for name in GROUP_WORDS if name in groups],
            "find": find.strip()[:40],
            "facts": f"{words.count(len(work.context.crops), 'crop')}, each value with its source",
        }
        return frame.page(work, "year", "Crops", values, template="crops/crops.html")


@router.get("/crops/words")
def crop_words(scope: Look) -> Response:
    """What lists of crops are searched by and show beside a name: code, hatch, names in other languages, kin."""
    with scope.open() as work:
        found = {}
        for crop in work.context.crops:
            hatch = family(crop.family)
            found[crop.key] = {
                "code": crop.code,
                "picture": portraits.address(crop, "emblem", px=24),
                "hatch": [hatch.key, hatch.colour, hatch.size, hatch.turn, hatch.mark, hatch.mark_width],
                "also": f"{crop.code} {crop.name.es} {crop.botanical} {crop.family} {group_words(crop.group)}",
                "names": crop_names().get(crop.key, ()),
            }
        return JSONResponse(found, headers={"Cache-Control": "private, max-age=600"})


@router.get("/year/crops/new")
def new(scope: Plan, name: str = "", like: str = "") -> Response:
    """Begin a crop that the catalogue lacks: its name, and the crop that is most like it, whose values it begins with."""
    with scope.open() as work:
        if like and name.strip():
            return _figures(work, work.context.crops[like], " ".join(name.split())[:60])
        names = sorted((crop.name.en, crop.key) for crop in work.context.crops)
        values = {"likes": [(key, name) for name, key in names], "name": name.strip()[:60]}
        return frame.page(work, "year", "A crop of our own", values, template="crops/new_crop.html")


@router.get("/year/crops/{key}/figures")
def figures(scope: Plan, key: str) -> Response:
    """Every value of a crop, to be set by the school."""
    with scope.open() as work:
        return _figures(work, work.context.crops[key], "")


@router.get("/year/crops/{key}")
def crop_page(scope: Look, key: str) -> Response:
    with scope.open() as work:
        crop = work.context.crops[key]
        return frame.page(work, "year", crop.name.en, _values(work, crop), template="crops/crop.html")


@router.post("/year/crops/{key}")
def set_own(scope: Plan, key: str) -> Response:
    """Set figures of the school's own, begin a variety from this crop, or go back to the catalogue's figures."""
    typed = {name: str(value) for name, value in scope.request.state.form.items()}
    with scope.open() as work:
        if typed.get("action") == "forget":
            based_on = work.context.crops[key].based_on
            commands.forget(work.connection, work.context, key, today=work.today)
            return frame.go(work, f"/year/crops/{based_on or key}")
        found = commands.save(
            work.connection,
            work.context,
            key,
            typed,
            new=typed.get("action") == "variety",
            row_id=uuid4(),
            today=work.today,
        )
        return frame.go(work, f"/year/crops/{found}")


def _figures(work: UnitOfWork, crop: Crop, name: str) -> Response:
    """The form of all values; with a `name` for a new crop that begins with them."""
    units, row = (
        work.context.school.units,
        next((r for r in own_crops.rows(work.connection) if r.crop == crop.key), None),
    )

    def shown(entry: CropField) -> tuple[CropField, str, bool]:
        given = name if entry.field in ("name", "es") else ""
        return (
            entry,
            given or written(crop, entry, units, southern=work.context.school.southern),
            not name and entry.field in crop.own,
        )

    values = {
        "crop": crop,
        "new": name,
        "groups": [(title, [shown(entry) for entry in entries]) for title, entries in GROUPS],
        "note": row.note if row and not name else "",
    }
    title = name or f"Our figures for {crop.name.en.lower()}"
    return frame.page(work, "year", title, values, template="crops/own_figures.html")


@dataclass(frozen=True)
class CurveView(View):
    """Filled by `_curve`, read by its template."""

    path: str
    width: float
    height: float
    box: str
    marks: list[tuple[float, str, bool]]
    words: str


@dataclass(frozen=True)
class LifeStage:
    """A picture of a crop at a stage, from above and from the side, with its words."""

    words: str
    href: str


LIFE: tuple[tuple[Stage, str], ...] = (
    ("seedling", "comes up"),
    ("young", "young"),
    ("grown", "grown"),
    ("flower", "in flower"),
    ("ripe", "ready"),
    ("gone to seed", "gone to seed"),
)
LIFE_PX = 130


@dataclass(frozen=True)
class CropPageView(View):
    """Filled by `_values`, read by its template."""

    crop: Crop
    life: list[LifeStage]
    from_above: str
    seed: str
    seed_px: int
    seed_words: str
    sign: str
    schematic: str
    hatch: Hatch
    groups: list[FactGroup]
    here: list[tuple[str, str, str]]
    curve: CurveView | None
    neighbours: list[tuple[str, str, str]]
    varieties: list[tuple[str, str]]
    base: Crop | None
    note: str
    own_words: str
    cautions: list[str]
    usual_source: str
    facts: str


def _values(work: UnitOfWork, crop: Crop) -> CropPageView:
    sources = work.context.crops.sources
    groups: list[FactGroup] = groups_of(
        crop,
        work.context.school.units,
        work.context.crops,
        southern=work.context.school.southern,
        region=work.context.region,
        wild=native_range(),
    )
    rows = {row.crop: row for row in own_crops.rows(work.connection)}
    varieties = [c for c in work.context.crops if c.based_on == crop.kind and c.key != crop.key]
    traits = plant_traits()[portraits.key_of(crop)]
    return CropPageView(
        life=[
            LifeStage(said, portraits.address(crop, stage, px=LIFE_PX))
            for stage, said in LIFE
            if stage != "flower" or traits.flower.form != "none"
        ],
        from_above=portraits.address(crop, "grown", "top", LIFE_PX),
        seed=portraits.address(crop, "seed", px=LIFE_PX),
        seed_px=portraits.true_size_px(crop),
        seed_words=f"{traits.seed.mm:g} mm long",
        sign=traits.sign,
        schematic=traits.schematic,
        crop=crop,
        hatch=family(crop.family),
        groups=groups,
        here=_here(work, crop),
        curve=_curve(work, crop),
        neighbours=_neighbours(work, crop),
        varieties=[(c.key, c.name.en) for c in varieties],
        base=work.context.crops[crop.kind] if crop.based_on else None,
        note=rows[crop.key].note if crop.key in rows else "",
        own_words=", ".join(ENTRIES[name].label.lower() for name in ENTRIES if name in crop.own),
        cautions=[
            text
            for text in (
                crop.caution,
                f"Poisonous: {crop.poisonous}." if crop.poisonous else "",
                crop.allergy,
                crop.look_alike,
            )
            if text
        ],
        usual_source=sources[crop.sources["default"]],
        facts=words.joined([crop.botanical, crop.family, group_words(crop.group), crop.life, f"{crop.season} season"]),
    )


def _here(work: UnitOfWork, crop: Crop) -> list[tuple[str, str, str]]:
    """For this place and the year to come, by way of starting: the weeks that fit, what follows, and where to look closer."""
    monday = work.day - timedelta(days=work.day.weekday())
    days = [monday + timedelta(weeks=n) for n in range(WEEKS)]
    found = []
    for method in crop.methods:
        weighed = weigh(crop, method, days, work.context.setting)
        ranks = [int(rank) for rank in weighed.ranks]
        spans = next((runs for rank in range(3) if (runs := _spans(days, ranks, rank))), [])
        care = "" if (weighed.verdict == 0).any() else " with care"
        said = (
            f"{', '.join(_weeks(a, b + timedelta(days=6), work.day.year) for a, b in spans)}{care}"
            if spans
            else "no week of the coming year"
        )
        found.append((terms("method")[method], said, frame.address(work, "/year/finder", crop=crop.key, method=method)))
    return found


def _weeks(first: date, last: date, this_year: int) -> str:
    """Some weeks, with their year where that is another one."""
    return words.span(first, last) + (f" {last.year}" if last.year != this_year else "")


def _spans(days: list[date], ranks: list[int], wanted: int) -> list[tuple[date, date]]:
    """Runs of weeks of a rank, as first and last Monday."""
    runs: list[tuple[date, date]] = []
    for day, rank in zip(days, ranks, strict=True):
        if rank == wanted:
            if runs and (day - runs[-1][1]).days == 7:
                runs[-1] = (runs[-1][0], day)
            else:
                runs.append((day, day))
    return runs


def _curve(work: UnitOfWork, crop: Crop) -> CurveView | None:
    """Height over time for the first week that fits, as a path; None for plants that take years."""
    if crop.season_warmth is not None:
        return None
    monday = work.day - timedelta(days=work.day.weekday())
    days = [monday + timedelta(weeks=n) for n in range(WEEKS)]
    weighed = weigh(crop, crop.methods[0], days, work.context.setting)
    row = min(range(len(days)), key=lambda n: (int(weighed.ranks[n]), n))
    dates = dates_at(weighed, row, crop, crop.methods[0])
    begin, end = dates.bed_from, dates.last_pick
    length = max(1, (end - begin).days)
    points = []
    for offset in sorted({round(length * n / CURVE_POINTS) for n in range(CURVE_POINTS + 1)}):
        grown = plant_height.share_grown(begin + timedelta(days=offset), dates)
        points.append(f"{CURVE_WIDTH * offset / length:.1f} {CURVE_HEIGHT * (1 - grown):.1f}")
    marks = [
        (round(CURVE_WIDTH * (day - begin).days / length, 1), word, (day - begin).days > 0.6 * length)
        for day, word in ((dates.emerge_to or begin, "up"), (dates.first_pick, "first picking"))
    ]
    return CurveView(
        path="M" + "L".join(points),
        width=CURVE_WIDTH,
        height=CURVE_HEIGHT,
        box=f"-4 -14 {CURVE_WIDTH + 8:g} {CURVE_HEIGHT + 34:g}",
        marks=marks,
        words=(
            f"In the bed {words.short_day(begin)} {begin.year}, "
            f"picked from {words.short_day(dates.first_pick)} to {words.short_day(end)} {end.year}."
        ),
    )


def _whose(pair: Pair) -> str:
    if pair.kind == "own":
        return "this school’s own record"
    return f"{'with evidence' if pair.kind == 'evidence' else 'tradition, no evidence'}; {pair.source}"


def _neighbours(work: UnitOfWork, crop: Crop) -> list[tuple[str, str, str]]:
    """What is said of its neighbours: whom, what, and whose word it is."""
    found = []
    for pair in neighbour_trials.pairs(work.connection, work.context):
        for mine, other in ((pair.a, pair.b), (pair.b, pair.a)):
            if mine in (crop.kind, f"family:{crop.family}"):
                name = (
                    other.removeprefix("family:") if other.startswith("family:") else work.context.crops[other].name.en
                )
                found.append((name, f"{pair.effect}: {pair.reason}", _whose(pair)))
                break
    return found
