"""The values of a crop that a school can set itself, in the order of the crop sheet: one entry a field."""

from dataclasses import dataclass
from typing import Literal, get_args

from almanaque.core.crops.crop import Group

Kind = Literal[
    "text",
    "long",
    "length",
    "warmth",
    "warmths",
    "number",
    "whole",
    "range",
    "span",
    "choice",
    "yes",
    "months",
    "methods",
    "ways",
    "amounts",
    "windows",
    "parts",
    "weights",
]


@dataclass(frozen=True)
class CropField:
    """A field with its words. `optional` may be left empty; `choices` are what a choice allows."""

    field: str
    label: str
    kind: Kind
    hint: str = ""
    optional: bool = False
    choices: tuple[str, ...] = ()


def _text(field: str, label: str, hint: str = "", *, long: bool = False, optional: bool = True) -> CropField:
    return CropField(field, label, "long" if long else "text", hint, optional)


def _choice(field: str, label: str, *choices: str) -> CropField:
    return CropField(field, label, "choice", choices=choices)


GROUPS: tuple[tuple[str, tuple[CropField, ...]], ...] = (
    (
        "Name and kin",
        (
            _text("name", "Name", optional=False),
            _text("es", "Name in Spanish", optional=False),
            _text("botanical", "Botanical name", optional=False),
            _text("family", "Family", "In Latin, such as Fabaceae: rotation goes by it.", optional=False),
            _choice("group", "Kind", *get_args(Group)),
            _choice("life", "Life", "annual", "biennial", "perennial"),
            _text("code", "Two letters on the drawing", optional=False),
        ),
    ),
    (
        "Sowing",
        (
            CropField("methods", "Ways of starting", "methods", "The usual one first, with commas."),
            CropField(
                "windows",
                "Usual weeks",
                "windows",
                "Such as: direct, last freeze, -4 to 6; indoors, last freeze, -8 to -6",
                True,
            ),
            _choice("set_when", "Set while it rests, or before winter", "", "dormant", "before winter"),
            CropField(
                "set_below_c",
                "Set in autumn below",
                "warmth",
                "The usual mean of the day; for what is set before winter.",
                True,
            ),
            CropField("roots_in_weeks", "Weeks to root before the ground freezes", "whole"),
            CropField("weeks_indoors", "Weeks indoors", "whole"),
            CropField("leaves_at_transplant", "True leaves at setting out", "whole"),
            CropField("depth_mm", "Depth of sowing", "length"),
            CropField("set_depth_mm", "Depth of setting out", "length", "Empty: as deep as in the pot.", True),
            _text("stock", "What is set in the ground", "Cloves, sets, tubers …"),
            CropField("germination_c", "Comes up at", "warmths", "Least, best and most, with commas."),
            CropField("emerges", "Days until it is up", "range", "In the best ground, to the coldest."),
            CropField("seed_cold_days", "Days of cold its seed needs", "whole"),
            CropField("germination", "Share that comes up", "number"),
            CropField("survival", "Share of seedlings that live", "number"),
            CropField("seeds_per_gram", "Seeds in a gram", "number", optional=True),
            CropField("packet_seeds", "Seeds in a packet", "whole", optional=True),
            CropField("seed_years", "Years the seed keeps", "range", optional=True),
        ),
    ),
    (
        "Growing",
        (
            _choice("season", "Season", "cool", "warm"),
            CropField(
                "days", "Days to the first picking", "ways", "25 to 30; one for each way of starting, with commas."
            ),
            CropField(
                "degree_days",
                "Warmth to the first picking, °C d",
                "amounts",
                "One for each way of starting; empty: by the days.",
                True,
            ),
            CropField("packet_c", "Warmth at which the days hold", "warmth", optional=True),
            CropField(
                "bulbs_at_h", "Hours of day from which it makes a bulb", "number", "Of days that grow longer.", True
            ),
            CropField("base_c", "It grows above", "warmth"),
            CropField("upper_c", "No faster above", "warmth"),
            CropField("slower_c", "Slower above", "warmth", "Empty: 8 °C (14 °F) above that.", True),
            CropField("still_c", "Stands still at", "warmth", "Empty: 10 °C (18 °F) above that.", True),
            CropField("bears_c", "Coldest night it bears", "warmth"),
            CropField("regrows", "Comes again when frost cuts it down young", "yes"),
            CropField("chills_c", "Nights that harm it without frost", "warmth", optional=True),
            CropField("seed_waits_days", "Days that seed survives in cold soil", "whole", optional=True),
            CropField("heat_c", "Greatest heat it bears", "warmth"),
            CropField("cold_days", "Days of cold it needs", "whole"),
            CropField("cold_below_c", "Cold is at or below", "warmth"),
            _text("without_cold", "Without the cold"),
            CropField("bolts_after_cold_days", "Shoots after days of cold", "whole"),
            CropField("long_day", "Waits for long days", "yes"),
            CropField("season_warmth", "Warmth from midwinter, °C d", "number", "Of a plant that comes again.", True),
            CropField("fruit_days", "Days from that warmth to the picking", "whole"),
            CropField("short_day_h", "Flowers below hours of daylight", "number", optional=True),
            CropField("winter_chill_h", "Hours of winter chill it needs", "whole"),
            _choice("feeding", "Feeding", "light", "middling", "heavy"),
            CropField("ph", "pH it likes", "span"),
            CropField("divide_years", "Divide every … years", "whole"),
            CropField("cut_back_months", "Cut back in", "months", optional=True),
            CropField("bare_months", "Without leaves in", "months", optional=True),
        ),
    ),
    (
        "Room",
        (
            CropField("in_row_mm", "Distance in the row", "length"),
            CropField("row_mm", "Distance between rows", "length"),
            CropField("thin_to_mm", "Thin to", "length", optional=True),
            CropField("per_square", "Published count in a square foot", "whole", optional=True),
            CropField("height_mm", "Height", "length"),
            CropField("width_mm", "Width", "length"),
            _choice("support_kind", "Support", "", "stake", "cage", "trellis", "poles"),
            CropField("climbs", "Climbs", "yes"),
            CropField("sprawls_mm", "Sprawls", "length", optional=True),
            CropField("sun_least_h", "Least hours of sun", "number"),
            CropField("soil_least_mm", "Least depth of soil", "length"),
            CropField("spreads", "Takes over", "yes"),
            CropField("nibbled", "Eaten in passing", "yes"),
        ),
    ),
    (
        "Picking",
        (
            _text("part", "Part", optional=False),
            _text("ready_sign", "Ready when", long=True, optional=False),
            _text("how_to_pick", "How to pick", long=True, optional=False),
            CropField("parts", "Other parts", "parts", "leaf: when it is ready | how it is picked || seed: …", True),
            CropField("picking_days", "Days it is picked, or at its best", "whole"),
            CropField("stands_days", "Days it may stand after the first picking", "whole", optional=True),
            CropField("stands_to_c", "Coldest night that what stands ripe bears", "warmth", optional=True),
            _choice("picked", "Picked", "once", "many"),
            CropField("cure_days", "Days of curing", "whole"),
            CropField("keeps_weeks", "Weeks it keeps in store", "whole", optional=True),
            _text("keeps_how", "How it is stored"),
            CropField("touches_soil", "The part touches the ground", "yes"),
            CropField("weights_g", "Weights, g", "weights", "bunch 150, head 400"),
            CropField("yield_g_m2", "Usual yield, g/m²", "span"),
            CropField("yield_plant_g", "Usual yield of a plant, g", "span", optional=True),
            _text("food_group", "Food group", optional=False),
            _text("rich_in", "Rich in"),
        ),
    ),
    (
        "Flowers and guests",
        (
            _choice("pollination", "Pollination", "self", "wind", "insects", "not needed"),
            CropField("male_female", "Male and female flowers apart", "yes"),
            _text("no_set", "No fruit when"),
            _text("crosses_with", "Crosses with"),
            CropField("isolation_m", "Apart for pure seed, m", "number", optional=True),
            CropField("blooms", "Blooms in", "months", "Of a plant that comes again.", True),
            CropField(
                "bloom_days", "Blooms from day, for days", "range", "60 to 30: from the 60th day for 30 days.", True
            ),
            CropField("nectar", "Nectar or pollen for bees", "yes"),
            _text("drinkers", "Who drinks from its flowers", long=True),
            _text("host_for", "Host for"),
            _text("origin", "Origin", long=True),
        ),
    ),
    (
        "Care and cautions",
        (
            _text("care", "Care", long=True, optional=False),
            _text("caution", "Caution", long=True),
            _text("poisonous", "Poisonous parts"),
            _text("allergy", "Allergy", long=True),
            _text("look_alike", "Mistaken for"),
            CropField("ages_from", "Handled from age", "whole"),
        ),
    ),
)
ENTRIES: dict[str, CropField] = {entry.field: entry for _, entries in GROUPS for entry in entries}
