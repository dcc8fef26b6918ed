"""The catalogue of crops: typed, checked on load, each value with its source.

`parse` takes the text of `data/crops.toml`. Lengths there are written as people write them and kept in millimetres;
temperatures are °C, masses grams, yields grams per square metre.
"""

import tomllib
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from almanaque.core.errors import BadInput
from almanaque.core.units import parse_length

Method = Literal["direct", "indoors", "starts", "cloves"]
METHOD_WORDS: dict[Method, str] = {
    "direct": "sown in place",
    "indoors": "started indoors",
    "starts": "bought as starts",
    "cloves": "set in the ground",
}


def _length_mm(value: Any) -> float:
    if not isinstance(value, str):
        raise ValueError("write a length with its unit in quotes, like “4 in”")
    try:
        return float(parse_length(value))
    except BadInput as error:
        raise ValueError(error.message) from None


LengthMm = Annotated[float, BeforeValidator(_length_mm), Field(gt=0, le=20_000)]
Range = tuple[int, int]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Names(Strict):
    en: str = Field(min_length=2)
    es: str = Field(min_length=2)


class Crop(Strict):
    """One crop. `days` counts packet days to the first picking: from sowing, setting, or setting out, by method."""

    key: str
    code: str = Field(pattern=r"^[A-Z][a-z]$", description="two letters on the drawing")
    name: Names
    botanical: str
    family: str
    life: Literal["annual", "biennial", "perennial"]
    season: Literal["cool", "warm"]
    bears_c: float = Field(ge=-40, le=12, description="coldest night [°C] that the growing plant bears")
    heat_c: float = Field(ge=18, le=45, description="normal greatest temperature [°C] above which it bolts or stops")
    germination_least_c: float = Field(ge=0, le=20, description="least mean temperature [°C] at which it comes up")
    methods: tuple[Method, ...] = Field(min_length=1, description="ways of starting it, the usual one first")
    weeks_indoors: int = Field(default=0, ge=0, le=14)
    emerges: Range = Field(description="days from sowing until the seed is up")
    days: dict[Method, Range]
    picking_days: int = Field(ge=1, le=200, description="how long picking or holding lasts")
    picked: Literal["once", "many"]
    part: str
    ready_sign: str
    how_to_pick: str
    depth_mm: LengthMm
    in_row_mm: LengthMm
    row_mm: LengthMm
    thin_to_mm: LengthMm | None = None
    per_square: int | None = Field(default=None, ge=1, le=36, description="published count in a 12 in square")
    height_mm: LengthMm
    width_mm: LengthMm
    support: bool = False
    support_kind: Literal["", "stake", "cage", "trellis", "poles"] = ""
    climbs: bool = Field(default=False, description="goes up a support, or a tall neighbour")
    sprawls_mm: LengthMm | None = Field(default=None, description="how far its vines run from where it stands")
    sun_least_h: float = Field(ge=0, le=12, description="least hours of direct sun a day in its season")
    soil_least_mm: LengthMm = Field(description="least depth of soil")
    ph: tuple[float, float] = Field(description="the soil it likes, from sour to sweet")
    feeding: Literal["light", "middling", "heavy"]
    spreads: bool = Field(default=False, description="takes over where its runners or seed are not held in")
    nibbled: bool = Field(default=False, description="eaten in passing, so it wants to stand by a path")
    poisonous: str = Field(default="", description="which parts are poisonous, in words")
    touches_soil: bool = Field(
        default=True, description="the part eaten touches the ground, for the days after raw manure"
    )
    bare_months: tuple[int, ...] = Field(default=(), description="months without leaves north of the equator")
    seeds_per_gram: float | None = Field(default=None, gt=0)
    packet_seeds: int | None = Field(default=None, gt=0, description="seeds in a packet as commonly sold")
    stock: str = Field(default="", description="what is set when it is neither sown nor set out: cloves, sets …")
    germination: float = Field(gt=0, le=1, description="usual share of good seed that comes up")
    survival: float = Field(default=0.9, gt=0, le=1)
    weights_g: dict[str, float] = Field(description="grams of one count, bunch, head or bag")
    yield_g_m2: tuple[float, float] = Field(description="usual range")
    caution: str = ""
    sources: dict[str, str]

    @property
    def spacing_mm(self) -> float:
        """The distance each way when planted in squares: the in-row spacing."""
        return self.in_row_mm

    def bare_in(self, *, southern: bool) -> frozenset[int]:
        """Months without leaves, half a year on south of the equator."""
        return frozenset((month + 5) % 12 + 1 if southern else month for month in self.bare_months)

    def source_of(self, field: str) -> str:
        """Key of the source of a value; `default` serves the values without one of their own."""
        return self.sources.get(field, self.sources["default"])

    @model_validator(mode="after")
    def _consistent(self) -> "Crop":
        for method in self.methods:
            if method not in self.days:
                raise ValueError(f"days has no range for “{method}”")
        for name, (least, most) in {"emerges": self.emerges, **{f"days.{m}": r for m, r in self.days.items()}}.items():
            if not 0 <= least <= most <= 400:
                raise ValueError(f"{name} must be two whole numbers in order, at most 400")
        if "cloves" in self.methods and not self.stock:
            raise ValueError("stock is missing for a crop that is set in the ground")
        if "indoors" in self.methods and not self.weeks_indoors:
            raise ValueError("weeks_indoors is missing for a crop that is started indoors")
        if not 3 <= self.ph[0] < self.ph[1] <= 10:
            raise ValueError("ph must be two numbers in order between 3 and 10")
        if any(not 1 <= month <= 12 for month in self.bare_months):
            raise ValueError("bare_months are numbers from 1 to 12")
        if self.support != bool(self.support_kind):
            raise ValueError("support_kind must be given for a crop with support, and only for one")
        if not 0 < self.yield_g_m2[0] <= self.yield_g_m2[1]:
            raise ValueError("yield_g_m2 must be two numbers in order")
        if "default" not in self.sources:
            raise ValueError("sources needs a default")
        if any(weight <= 0 for weight in self.weights_g.values()):
            raise ValueError("weights_g must be above 0")
        return self


@dataclass(frozen=True)
class Catalogue:
    """All crops by key, in the order of the file, and the sources their values name."""

    crops: dict[str, Crop]
    sources: dict[str, str]

    def __getitem__(self, key: str) -> Crop:
        """The crop of that key. Raises BadInput for one that is not in the catalogue."""
        try:
            return self.crops[key]
        except KeyError:
            raise BadInput(f"There is no crop “{key[:40]}” in the catalogue. Choose one from the list.") from None

    def __iter__(self) -> Any:
        return iter(self.crops.values())

    def __len__(self) -> int:
        return len(self.crops)


def parse(text: str) -> Catalogue:
    """Read the catalogue from TOML. Raises BadInput naming crop, field and what would be allowed."""
    try:
        raw = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise BadInput(f"The catalogue is not TOML: {error}.") from None
    sources = raw.pop("sources", {})
    crops: dict[str, Crop] = {}
    codes: dict[str, str] = {}
    for key, table in raw.items():
        try:
            crop = Crop(key=key, **table)
        except ValidationError as error:
            first = error.errors()[0]
            field = ".".join(str(part) for part in first["loc"]) or "the crop"
            raise BadInput(f"Crop “{key}”, {field}: {first['msg']}.", field=field) from None
        for source in crop.sources.values():
            if source not in sources:
                raise BadInput(f"Crop “{key}” names the source “{source}”, which is not in [sources].")
        if crop.code in codes:
            raise BadInput(f"Crops “{key}” and “{codes[crop.code]}” share the code {crop.code}.")
        codes[crop.code] = key
        crops[key] = crop
    return Catalogue(crops, dict(sources))
