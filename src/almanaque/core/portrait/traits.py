"""What a plant looks like, in a botanist's words: seed, seed leaves, leaves, habit, flower, fruit and root.

A crop is one row of `portraits.toml`; `like` names another row from which it takes what it does not say itself.
"""

import tomllib
from collections.abc import Mapping
from functools import cached_property
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from almanaque.core.errors import BadInput
from almanaque.core.portrait.pen import COLOURS

SeedForm = Literal[
    "round",
    "oval",
    "flat",
    "long",
    "kidney",
    "wedge",
    "drop",
    "ridged",
    "winged",
    "clove",
    "tuber",
    "bulb",
    "crown",
    "cane",
]
SeedLeafForm = Literal[
    "oval", "round", "heart", "lance", "needle", "spoon", "square", "kidney", "blade", "thread", "none"
]
LeafForm = Literal[
    "oval",
    "round",
    "lance",
    "spoon",
    "heart",
    "arrow",
    "lyre",
    "cut",
    "oak",
    "hand",
    "shield",
    "strap",
    "blade",
    "needle",
    "tube",
    "fern",
    "thread",
    "pinnate",
    "trifoliate",
    "fingers",
]
Margin = Literal["smooth", "wavy", "toothed", "ruffled"]
Tone = Literal["dark", "mid", "pale", "blue", "grey", "purple"]
HabitForm = Literal[
    "rosette", "head", "stem", "bush", "climber", "vine", "grass", "straps", "clump", "mat", "shrub", "canes", "tree"
]
FlowerForm = Literal[
    "none",
    "daisy",
    "cross",
    "five",
    "pea",
    "trumpet",
    "umbel",
    "spike",
    "plume",
    "ball",
    "star",
    "bell",
    "lip",
    "tassel",
    "face",
    "head",
]
FruitForm = Literal[
    "none",
    "globe",
    "long",
    "pear",
    "pumpkin",
    "pod",
    "ear",
    "grain",
    "strawberry",
    "bramble",
    "berries",
    "lantern",
    "sprouts",
    "curd",
    "bud",
    "capsule",
    "seedhead",
    "heart",
    "apple",
]
RootForm = Literal["fibrous", "taper", "globe", "bulb", "cloves", "tubers", "crown", "nuts", "stem", "swollen"]


class TraitPart(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class WithColour(TraitPart):
    colour: str = "white"

    @field_validator("colour")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in COLOURS:
            raise ValueError(f"no such colour: {value}")
        return value


class SeedTrait(WithColour):
    """What is sown or set: its form, length [mm] and colour."""

    form: SeedForm = "round"
    mm: float = Field(default=3.0, gt=0.2, le=300)
    colour: str = "brown"


class SeedLeafTrait(WithColour):
    """The seed leaves: form, length of each [mm], colour; `below` where they stay in the soil; `stem` is the colour under them."""

    form: SeedLeafForm = "oval"
    mm: float = Field(default=10.0, gt=1, le=80)
    colour: str = "moss"
    below: bool = False
    stem: str = "lime"


class LeafTrait(TraitPart):
    """A leaf: `ratio` of its width to its length, `stalk` the share of it that is stalk, `leaflets` of a compound one, how many
    there are, and how many are on a `first` true one."""

    form: LeafForm = "oval"
    margin: Margin = "smooth"
    tone: Tone = "mid"
    ratio: float = Field(default=0.5, gt=0.01, le=2.0)
    stalk: float = Field(default=0.2, ge=0.0, le=0.8)
    leaflets: int = Field(default=5, ge=3, le=21)
    many: int = Field(default=9, ge=1, le=40)
    rib: str = "cream green"
    hairy: bool = False


class HabitTrait(TraitPart):
    """How it grows: the form, whether leaves stand `opposite` each other, how many `stems`, the colour of stems."""

    form: HabitForm = "stem"
    opposite: bool = False
    stems: int = Field(default=1, ge=1, le=30)
    stem: str = "moss"
    hearted: bool = False


class FlowerTrait(WithColour):
    """A flower: form, width [mm], colour, colour of its middle, number of petals or rays, and how many are seen at once."""

    form: FlowerForm = "none"
    mm: float = Field(default=20.0, gt=1, le=400)
    middle: str = "yellow"
    petals: int = Field(default=5, ge=3, le=40)
    many: int = Field(default=4, ge=1, le=40)


class FruitTrait(WithColour):
    """What is picked or bears seed: form, length and width [mm], colour unripe and ripe, and how many are seen at once."""

    form: FruitForm = "none"
    mm: float = Field(default=40.0, gt=1, le=600)
    ratio: float = Field(default=1.0, gt=0.02, le=3)
    colour: str = "red"
    unripe: str = "moss"
    many: int = Field(default=4, ge=1, le=40)


class RootTrait(WithColour):
    """What lies below: form, length and width [mm] of one, colour, and how many."""

    form: RootForm = "fibrous"
    mm: float = Field(default=80.0, gt=2, le=600)
    ratio: float = Field(default=1.0, gt=0.02, le=3)
    colour: str = "cream"
    many: int = Field(default=1, ge=1, le=20)


class PlantTraits(TraitPart):
    """All of a plant. `sign` tells a seedling from others in one line; `schematic` names what is only hinted at."""

    seed: SeedTrait = SeedTrait()
    seed_leaf: SeedLeafTrait = SeedLeafTrait()
    leaf: LeafTrait = LeafTrait()
    habit: HabitTrait = HabitTrait()
    flower: FlowerTrait = FlowerTrait()
    fruit: FruitTrait = FruitTrait()
    root: RootTrait = RootTrait()
    sign: str = ""
    source: str = ""
    schematic: str = ""


class Weed(TraitPart):
    """A weed's seedling: its name, what it looks like, the sign to know it by, and the crops it is taken for."""

    name: str
    plant: PlantTraits
    height_mm: float
    places: tuple[str, ...] = ()
    taken_for: tuple[str, ...] = ()


class Portraits:
    """The rows of a file of traits, each with what it takes from the row that it is like."""

    def __init__(self, rows: Mapping[str, Mapping[str, Any]], weeds: Mapping[str, Mapping[str, Any]]) -> None:
        self._rows, self._weeds = rows, weeds
        self._made: dict[str, PlantTraits] = {}

    def __contains__(self, key: str) -> bool:
        return key in self._rows

    def __getitem__(self, key: str) -> PlantTraits:
        if key not in self._made:
            self._made[key] = PlantTraits.model_validate(self._whole(key, ()))
        return self._made[key]

    @property
    def keys(self) -> tuple[str, ...]:
        return tuple(self._rows)

    @cached_property
    def weeds(self) -> dict[str, Weed]:
        return {key: self._weed(row) for key, row in self._weeds.items()}

    def _weed(self, row: Mapping[str, Any]) -> Weed:
        own = {name: value for name, value in row.items() if name not in ("name", "height_mm", "places", "taken_for")}
        return Weed(
            name=row["name"],
            plant=PlantTraits.model_validate(self._joined(own, ())),
            height_mm=row["height_mm"],
            places=tuple(row.get("places", ())),
            taken_for=tuple(row.get("taken_for", ())),
        )

    def _whole(self, key: str, seen: tuple[str, ...]) -> dict[str, Any]:
        if key in seen or key not in self._rows:
            raise BadInput("portrait.like_nothing", key=key)
        return self._joined(self._rows[key], (*seen, key))

    def _joined(self, row: Mapping[str, Any], seen: tuple[str, ...]) -> dict[str, Any]:
        below = self._whole(row["like"], seen) if "like" in row else {}
        joined = dict(below)
        for name, value in row.items():
            if name == "like":
                continue
            joined[name] = {**below.get(name, {}), **value} if isinstance(value, dict) else value
        return joined


def read(text: str) -> Portraits:
    """The rows of a file. Raises BadInput for a row that is like none, pydantic's ValidationError for a trait that is none."""
    rows = tomllib.loads(text)
    weeds = rows.pop("weed", {})
    return Portraits(rows, weeds)
