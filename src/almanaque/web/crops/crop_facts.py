"""Everything the catalogue knows of a crop, in words with units, each with whose word it is."""

from collections.abc import Callable
from dataclasses import dataclass

from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop import Crop, Range, turned
from almanaque.core.crops.native_range import NativeRange, Region
from almanaque.core.units import (
    Units,
    format_length,
    format_mass,
    format_stretch,
    format_temperature,
    temperatures_in,
)
from almanaque.core.words import terms
from almanaque.core.words.days import MONTH_NAMES

GROUP_WORDS = {
    "roots": "Roots",
    "leaves": "Leaves",
    "cabbages": "Cabbage kin",
    "onions": "Onion kin",
    "legumes": "Peas and beans",
    "gourds": "Gourds",
    "nightshades": "Nightshades",
    "grains": "Maize, grain and flax",
    "cover crops": "Cover crops",
    "herbs": "Herbs",
    "flowers": "Flowers and host plants",
    "berries": "Berries",
    "perennials": "Perennial vegetables",
    "trees": "Trees",
}
PUBLISHED = {"emergence": "Harrington & Minges 1954", "water": "FAO-56, table 12"}
ALIKE = 0.15  # share by which two figures may differ and still say the same: our own rule
# Facts that tell several fields, with the words for another source's figure of each.
TOLD_WITH = {"height_mm": {"height_mm": "{} high"}, "base_c": {"base_c": "above {}", "upper_c": "best from {}"}}
M2_PER_FT2 = 0.09290304


@dataclass(frozen=True)
class CropFact:
    label: str
    value: str
    source: str
    own: bool
    other: str = ""


@dataclass(frozen=True)
class FactGroup:
    title: str
    facts: list[CropFact]


def group_words(group: str) -> str:
    return GROUP_WORDS[group]


def groups_of(
    crop: Crop, units: Units, catalogue: Catalogue, *, southern: bool, region: Region, wild: NativeRange
) -> list[FactGroup]:
    """The facts by theme; what is not known is left out, and a source only named where it is not the crop's usual one.

    Where another source has another figure, both are told.
    """
    sources = catalogue.sources

    def source(field: str) -> str:
        if not field:
            return ""
        key = crop.source_of(field)
        return "" if key == crop.sources["default"] or (field == "emergence" and not crop.emergence) else sources[key]

    def length(mm: float | None) -> str:
        return format_length(mm, units, feet=mm is not None and mm > 900) if mm else ""

    def warm(celsius: float) -> str:
        return format_temperature(celsius, units)

    def fact(field: str, label: str, value: str) -> tuple[str, str, str]:
        return field, label, value

    themes = {
        "Sowing": [
            fact("methods", "Ways", ", ".join(terms("method")[m] for m in crop.methods)),
            fact("windows", "Usual weeks", "; ".join(_window(w.method, w.anchor, w.weeks) for w in crop.windows)),
            fact("set_when", "Planting season", _planting_season(crop, warm)),
            fact("depth_mm", "Depth", length(crop.depth_mm)),
            fact("set_depth_mm", "Set out", f"{length(crop.set_depth_mm)} deep" if crop.set_depth_mm else ""),
            fact(
                "germination_c",
                "Comes up at",
                f"{warm(crop.germination_c[0])} to {warm(crop.germination_c[2])}, best at {warm(crop.germination_c[1])}",
            ),
            fact("emergence", "Up after", _emergence(crop, units) or f"{_range(crop.emerges)} days"),
            fact(
                "weeks_indoors",
                "Indoors",
                f"{crop.weeks_indoors} weeks, out at {crop.leaves_at_transplant} leaves" if crop.weeks_indoors else "",
            ),
            fact(
                "seed_cold_days",
                "Its seed needs",
                f"{crop.seed_cold_days} days of cold ground" if crop.seed_cold_days else "",
            ),
            fact("germination", "Comes up of good seed", f"{crop.germination:.0%}"),
            fact("seeds_per_gram", "Seeds in a gram", f"{crop.seeds_per_gram:g}" if crop.seeds_per_gram else ""),
            fact("seed_years", "Seed keeps", f"{_range(crop.seed_years)} years" if crop.seed_years else ""),
        ],
        "Growing": [
            fact(
                "days",
                "Days to the first picking",
                "; ".join(f"{terms('method')[m]} {_range(r)}" for m, r in crop.days.items()),
            ),
            fact("base_c", "Grows above", f"{warm(crop.base_c)}, best from {warm(crop.upper_c)}"),
            fact(
                "degree_days",
                "Warmth to the first picking",
                "; ".join(f"{v:g} °C d {terms('method')[m]}" for m, v in crop.degree_days.items()),
            ),
            fact(
                "season_warmth", "Warmth from midwinter", f"{crop.season_warmth:g} °C d" if crop.season_warmth else ""
            ),
            fact("fruit_days", "From that warmth to the picking", f"{crop.fruit_days} days" if crop.fruit_days else ""),
            fact("bulbs_at_h", "Makes its bulb", f"in days of {crop.bulbs_at_h:g} hours" if crop.bulbs_at_h else ""),
            fact(
                "short_day_h",
                "Flowers",
                f"when days are shorter than {crop.short_day_h:g} hours" if crop.short_day_h else "",
            ),
            fact("winter_chill_h", "Winter chill", f"about {crop.winter_chill_h} hours" if crop.winter_chill_h else ""),
            fact(
                "stands_days",
                "May stand",
                f"{crop.stands_days} days after the first picking" if crop.stands_days else "",
            ),
            fact(
                "keeps_weeks",
                "Keeps",
                f"{crop.keeps_weeks} weeks at least, {crop.keeps_how}" if crop.keeps_weeks else "",
            ),
            fact("bears_c", "Bears", f"nights down to {warm(crop.bears_c)}"),
            fact("heat_c", "Suffers", f"in weeks above {warm(crop.heat_c)}"),
            fact(
                "cold_days",
                "Needs cold",
                f"{crop.cold_days} days at or below {warm(crop.cold_below_c)}; else {crop.without_cold}"
                if crop.cold_days
                else "",
            ),
            fact(
                "bolts_after_cold_days",
                "Shoots",
                f"in spring after {crop.bolts_after_cold_days} cold days" if crop.bolts_after_cold_days else "",
            ),
            fact("feeding", "Feeding", f"{crop.feeding} feeder, pH {crop.ph[0]:g} to {crop.ph[1]:g}"),
            fact("water", "Water", _water(crop)),
            fact("divide_years", "Divide", f"every {crop.divide_years} years" if crop.divide_years else ""),
            fact("cut_back_months", "Cut back", _months(crop.cut_back_months, southern)),
        ],
        "Room": [
            fact("in_row_mm", "Apart", f"{length(crop.in_row_mm)}, rows {length(crop.row_mm)}"),
            fact("per_square", "In a square foot", f"{crop.per_square}" if crop.per_square else ""),
            fact("thin_to_mm", "Thin to", length(crop.thin_to_mm)),
            fact("height_mm", "Grown", f"{length(crop.height_mm)} high, {length(crop.width_mm)} wide"),
            fact("sprawls_mm", "Sprawls", length(crop.sprawls_mm)),
            fact("support_kind", "Support", crop.support_kind),
            fact("sun_least_h", "Sun", f"{crop.sun_least_h:g} h a day at least"),
            fact("soil_least_mm", "Soil", f"{length(crop.soil_least_mm)} deep at least"),
        ],
        "Picking": [
            fact("part", "Part", crop.part),
            fact("ready_sign", "Ready when", crop.ready_sign),
            fact("how_to_pick", "How", crop.how_to_pick),
            *(fact("parts", name.capitalize(), f"{also.sign}. {also.how}") for name, also in crop.parts.items()),
            fact(
                "picking_days",
                "Picked again for" if crop.picked == "many" else "At its best for",
                f"{crop.picking_days} days",
            ),
            fact("cure_days", "Cure", f"{crop.cure_days} days" if crop.cure_days else ""),
            fact("yield_g_m2", "Usual yield", _yield(crop, units)),
            fact(
                "yield_plant_g",
                "By the plant",
                " to ".join(format_mass(g, units) for g in crop.yield_plant_g) if crop.yield_plant_g else "",
            ),
            fact("food_group", "On the plate", crop.food_group + (f", rich in {crop.rich_in}" if crop.rich_in else "")),
        ],
        "Flowers and guests": [
            fact(
                "pollination",
                "Pollination",
                crop.pollination + (", male and female flowers apart" if crop.male_female else ""),
            ),
            fact("no_set", "No fruit when", temperatures_in(crop.no_set, units)),
            fact(
                "crosses_with",
                "Crosses with",
                crop.crosses_with
                + (f", {format_stretch(crop.isolation_m, units)} apart for pure seed" if crop.isolation_m else ""),
            ),
            fact(
                "blooms",
                "Blooms",
                _months(crop.blooms, southern)
                or (f"from day {crop.bloom_days[0]} for {crop.bloom_days[1]} days" if crop.bloom_days else ""),
            ),
            fact("nectar", "For bees", "nectar or pollen" if crop.nectar else ""),
            fact("drinkers", "Who drinks", crop.drinkers),
            fact("host_for", "Host for", crop.host_for),
            fact("origin", "Origin", crop.origin),
            fact("", "Here", _here(crop, region, wild)),
            fact("ages_from", "Handled from", f"age {crop.ages_from}"),
        ],
    }
    return [
        FactGroup(
            title,
            [
                CropFact(
                    label,
                    value,
                    PUBLISHED.get(field, "") if _published(crop, field) else source(field),
                    field in crop.own,
                    _other(crop, field, catalogue, units),
                )
                for field, label, value in facts
                if value
            ],
        )
        for title, facts in themes.items()
    ]


def _here(crop: Crop, region: Region, wild: NativeRange) -> str:
    """Whether it is native in the school's region, else to which, and whether it is fought there."""
    native = wild.native_to(crop)
    if not native:
        return ""
    home = " and ".join(terms("region")[one] for one in native)
    said = f"native to {terms('region')[region]}" if region in native else f"introduced; native to {home}"
    fought = wild.fought(crop, region)
    return f"{said}; fought in parts: {fought}" if fought else said


def _planting_season(crop: Crop, warm: Callable[[float], str]) -> str:
    """When it is set where there is a weather record; empty for what goes by weeks from the freezes."""
    if crop.set_when == "dormant":
        return f"while it rests; {crop.roots_in_weeks} weeks to root before the ground freezes"
    if crop.set_when == "before winter" and crop.set_below_c is not None:
        return f"when usual days fall below {warm(crop.set_below_c)}; {crop.roots_in_weeks} weeks to root before winter"
    return ""


def _other(crop: Crop, field: str, catalogue: Catalogue, units: Units) -> str:
    """What other sources have for it, where that is not much the same; empty for a figure of the school's own."""
    said: dict[str, list[str]] = {}
    for name, words in TOLD_WITH.get(field, {}).items():
        ours = float(getattr(crop, name))
        for found in () if name in crop.own else catalogue.tables.others.get((crop.key, name), ()):
            if abs(found.value - ours) <= ALIKE * max(abs(ours), abs(found.value)):
                continue
            step = 25.4 if units == "us" else 10.0  # the source knows no eighths of an inch
            length = format_length(round(found.value / step) * step, units, feet=found.value > 900)
            figure = length if name.endswith("_mm") else format_temperature(found.value, units)
            said.setdefault(found.source, []).append(words.format(figure))
    told = [f"{'; '.join(figures)} by {source}" for source, figures in said.items()]
    return f"{'; else '.join(told)}." if told else ""


def _published(crop: Crop, field: str) -> bool:
    return (field == "emergence" and bool(crop.emergence)) or (field == "water" and crop.water is not None)


def _range(pair: Range | None) -> str:
    if pair is None:
        return ""
    return f"{pair[0]}" if pair[0] == pair[1] else f"{pair[0]} to {pair[1]}"


def _window(method: str, anchor: str, weeks: Range) -> str:
    """`sown in place 5 weeks before to 4 after the last freeze`."""
    first, last = weeks

    def when(n: int) -> str:
        return "at" if n == 0 else f"{abs(n)} week{'s' if abs(n) != 1 else ''} {'before' if n < 0 else 'after'}"

    return f"{terms('method')[method]} {when(first)} to {when(last)} the {anchor}"


def _emergence(crop: Crop, units: Units) -> str:
    """The published row in words, at three temperatures."""
    if not crop.emergence_days:
        return ""
    said = [
        f"{days:g} days at {format_temperature(5.0 * n, units)}"
        for n, days in enumerate(crop.emergence_days)
        if days and n in (2, 3, 4, 5)
    ]
    return ", ".join(said[:3])


def _water(crop: Crop) -> str:
    return (
        ""
        if crop.water is None
        else f"crop coefficient {crop.water.kc[0]:g}, {crop.water.kc[1]:g}, {crop.water.kc[2]:g} (first, middle, end)"
    )


def _yield(crop: Crop, units: Units) -> str:
    low, high = crop.yield_g_m2
    if units == "us":
        pounds = [v * M2_PER_FT2 / 453.59237 for v in (low, high)]
        return f"{pounds[0]:.2g} to {pounds[1]:.2g} lb a square foot"
    return f"{low / 1000:g} to {high / 1000:g} kg a square metre"


def _months(months: tuple[int, ...], southern: bool) -> str:
    """Months of the north by name, as they are where the school is."""
    return ", ".join(MONTH_NAMES[m - 1] for m in sorted(turned(months, southern=southern)))
