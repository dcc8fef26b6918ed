"""Lengths, areas, volumes, masses and temperatures as people write them, in feet and inches or in metric units.

Kept values are millimetres, grams, litres and degrees Celsius. Conversion factors are the exact ones of the
international yard and pound agreement of 1959: 1 in = 25.4 mm, 1 lb = 453.59237 g; 1 US gallon = 231 in³.
"""

import re
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from typing import Literal

from almanaque.core.errors import BadInput
from almanaque.core.words import Phrase

Units = Literal["us", "metric"]

MM_PER_INCH = Decimal("25.4")
MM_PER_FOOT = Decimal("304.8")
KM_PER_MILE = 1.609344  # exactly, by definition of the international foot
LITRES_PER_CUBIC_FOOT = 28.316846592  # exact, from the foot of 1959
GRAMS_PER_POUND = Decimal("453.59237")
GRAMS_PER_OUNCE = GRAMS_PER_POUND / 16  # a sixteenth of a pound, exact
LITRES_PER_GALLON = Decimal("3.785411784")
SQUARE_METRES_PER_SQUARE_FOOT = Decimal("0.09290304")

_LENGTHS = {
    "mm": Decimal(1),
    "cm": Decimal(10),
    "m": Decimal(1000),
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "ft": MM_PER_FOOT,
    "foot": MM_PER_FOOT,
    "feet": MM_PER_FOOT,
    "yd": 3 * MM_PER_FOOT,
    "yard": 3 * MM_PER_FOOT,
    "yards": 3 * MM_PER_FOOT,
    "'": MM_PER_FOOT,
}
_MASSES = {
    "g": Decimal(1),
    "kg": Decimal(1000),
    "oz": GRAMS_PER_OUNCE,
    "ounce": GRAMS_PER_OUNCE,
    "ounces": GRAMS_PER_OUNCE,
    "lb": GRAMS_PER_POUND,
    "lbs": GRAMS_PER_POUND,
    "pound": GRAMS_PER_POUND,
    "pounds": GRAMS_PER_POUND,
}
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8", "⅓": "1/3", "⅔": "2/3"}
# Thousands set apart: 1,370 and 1,370.5; 1.370,5; 1 370.
GROUPED = r"[1-9]\d{0,2}(?:(?:,\d{3})+(?:\.\d+)?|(?:\.\d{3})+,\d+|(?:\.\d{3}){2,}|(?:[ \u00a0\u202f]\d{3})+(?:[.,]\d+)?)(?![\d.,])"
DECIMAL = rf"{GROUPED}|\d+(?:[.,]\d+)?|[.,]\d+"  # as people write it; `plain_number` reads it
_NUMBER = rf"(?P<number>\d+\s+\d+/\d+|\d+/\d+|{DECIMAL})"
_PART = re.compile(rf"\s*{_NUMBER}\s*(?P<unit>[a-z]+\.?|[\"'])?\s*")
IN_THOUSANDTHS = frozenset(
    {"m", "kg"}
)  # units of which people write three decimals: 1,370 m is 1.37 m, and 1,370 mm is not
LONGEST_TEXT = 60  # characters of a quantity as it is written: our own rule
LONGEST_MM = Decimal(99_999_999)


def plain_quantity(text: str, *, most: int = LONGEST_TEXT) -> str:
    """A quantity as it is written with single spaces, or nothing where it is longer than any is: so that reading it takes no time
    that grows faster than it does."""
    plain = " ".join(text[: 4 * most].split())
    return plain if len(plain) <= most and len(text) <= 4 * most else ""


def plain_number(text: str, *, thousandths: bool = False) -> str:
    """A number as people write it with a point before its decimals and nothing between its thousands.

    Three digits behind one comma are thousands, or decimals where `thousandths` are usual.

    >>> plain_number("1,370"), plain_number("1,370", thousandths=True), plain_number("1.370,5"), plain_number("2,5")
    ('1370', '1.370', '1370.5', '2.5')
    """
    kept = text.strip()
    if re.fullmatch(GROUPED, kept) and not (thousandths and re.fullmatch(r"\d+,\d{3}", kept)):
        both = "." in kept and "," in kept
        marks = [mark for mark in " \u00a0\u202f.," if mark in kept]
        decimal = max(marks, key=kept.rindex) if both or (kept.count(marks[0]) == 1 and len(marks) > 1) else ""
        for mark in marks:
            kept = kept.replace(mark, "." if mark == decimal else "")
        return kept
    return kept.replace(",", ".")


def parse_length(text: str, *, bare_unit: str = "") -> Decimal:
    """Length [mm] from `4 ft 6 in`, `4'6"`, `54"`, `1.37 m`, `137 cm` or `1/4 in`.

    A bare number takes `bare_unit` ('ft', 'cm' …); without one it raises. Raises BadInput for a negative length and for
    anything that cannot be read. The result is rounded to 0.0001 mm.

    >>> parse_length("4 ft 6 in")
    Decimal('1371.6000')
    """
    return _parse(text, _LENGTHS, bare_unit, "length")


def parse_mass(text: str, *, bare_unit: str = "") -> Decimal:
    """Mass [g] from `2 lb 3 oz`, `340 g` or `1.2 kg`. Raises BadInput as parse_length does.

    >>> parse_mass("1/2 lb")
    Decimal('226.7962')
    """
    return _parse(text, _MASSES, bare_unit, "mass")


def with_unit_of(second: str, first: str) -> str:
    """The first of two lengths, with the unit of the second where it says none: `4 x 8 ft` is 4 ft and 8 ft.

    >>> with_unit_of("8 ft 6 in", "4"), with_unit_of("8 ft", "4 in")
    ('4ft', '4 in')
    """
    unit = re.search(r"[a-z]+|[\"'′’″”]+", second.lower())
    bare = re.fullmatch(rf"(?:{DECIMAL})|\d+(?:[ -]\d+)?/\d+|\d* ?[{''.join(_VULGAR)}]", first.strip())
    return first.strip() + unit[0] if unit and bare else first


def parse_size(text: str) -> tuple[Decimal, Decimal]:
    """Length and width [mm] from `6 ft x 2 ft` or `6 x 2 ft` (x, × or by between them). Raises BadInput."""
    halves = [half.strip() for half in re.split(r"[x×]|\bby\b", plain_quantity(text, most=2 * LONGEST_TEXT).lower())]
    if len(halves) != 2 or not all(halves):
        raise BadInput("units.not_a_size", text=_short(text))
    length, width = parse_length(with_unit_of(halves[1], halves[0])), parse_length(halves[1])
    if length == 0 or width == 0:
        raise BadInput("units.side_of_nothing", text=_short(text))
    return length, width


def parse_temperature(text: str, *, bare_unit: str = "") -> Decimal:
    """Temperature [°C] from `32 °F`, `0C` or `-2.5 °C`. Raises BadInput below absolute zero and without a unit."""
    match = re.fullmatch(r"([-−]?\d+(?:[.,]\d+)?) ?°? ?([cf])?", plain_quantity(text).lower())
    unit = (match[2] or bare_unit.lower()) if match else ""
    if match is None or unit not in ("c", "f"):
        raise BadInput("units.not_a_temperature", text=_short(text))
    degrees = Decimal(match[1].replace("−", "-").replace(",", "."))
    if degrees > 10_000:
        raise BadInput("units.too_hot", text=_short(text))
    celsius = degrees if unit == "c" else (degrees - 32) * 5 / 9
    if celsius < Decimal("-273.15"):
        raise BadInput("units.too_cold", text=_short(text))
    return celsius.quantize(Decimal("0.0001"))


def format_length(mm: Decimal | float, units: Units, *, feet: bool = True) -> str:
    """Text of a length [mm]: feet, inches and sixteenths, or metres and centimetres.

    `feet=False` keeps a spacing in inches (`24 in`), as packets print it. What it writes, `parse_length` reads back
    exactly for lengths that are whole sixteenths of an inch, or whole millimetres in metric units.

    >>> format_length(Decimal("1371.6"), "us"), format_length(Decimal("1371.6"), "metric")
    ('4 ft 6 in', '1.372 m')
    """
    value = Decimal(mm)
    if units == "metric":
        whole_mm = value.quantize(Decimal(1), ROUND_HALF_UP)
        if whole_mm >= 1000:
            return f"{_plain(whole_mm / 1000)} m"
        return f"{_plain(whole_mm / 10)} cm" if whole_mm >= 10 else f"{whole_mm} mm"
    sixteenths = int((value / MM_PER_INCH * 16).quantize(Decimal(1), ROUND_HALF_UP))
    whole_feet, rest = divmod(sixteenths, 12 * 16) if feet else (0, sixteenths)
    inches = _mixed(Fraction(rest, 16))
    if not whole_feet:
        return f"{inches} in"
    return f"{whole_feet} ft" if not rest else f"{whole_feet} ft {inches} in"


def format_distance(km: float, units: Units) -> str:
    """A way over land: whole miles or kilometres.

    >>> format_distance(60, "us"), format_distance(60, "metric")
    ('37 miles', '60 km')
    """
    return f"{km / KM_PER_MILE:.0f} miles" if units == "us" else f"{km:g} km"


def format_stretch(metres: float, units: Units) -> str:
    """A stretch across fields [m], roughly: tens of feet, tenths of a mile from 1,000 ft on; or metres.

    >>> [format_stretch(metres, "us") for metres in (10, 300, 800, 1600)], format_stretch(1600, "metric")
    (['30 ft', '980 ft', '0.5 miles', '1 mile'], '1,600 m')
    """
    if units == "metric":
        return f"{metres:,.0f} m"
    feet = metres * 1000 / float(MM_PER_INCH) / 12
    if feet < 1000:
        return f"{round(feet, -1):.0f} ft"
    miles = round(metres / 1000 / KM_PER_MILE, 1)
    return f"{miles:g} {'mile' if miles == 1 else 'miles'}"


def format_mass(grams: Decimal | float, units: Units) -> str:
    """Text of a mass [g]: pounds to a tenth (ounces below one), or kilograms to a hundredth (grams below one).

    >>> format_mass(1000, "us"), format_mass(80, "us"), format_mass(1240, "metric")
    ('2.2 lb', '2.8 oz', '1.24 kg')
    """
    value = Decimal(grams)
    if units == "metric":
        return f"{_rounded(value / 1000, '0.01')} kg" if value >= Decimal("999.5") else f"{_rounded(value, '1')} g"
    if value / GRAMS_PER_OUNCE >= Decimal("15.95"):  # what would read 16.0 oz is a pound
        return f"{_rounded(value / GRAMS_PER_POUND, '0.1')} lb"
    return f"{_rounded(value / GRAMS_PER_OUNCE, '0.1')} oz"


def format_mass_range(low: float, high: float, units: Units) -> str:
    """A range of masses [g] in the unit of its upper end: `1.5 to 5.6 lb`; `up to 5.6 lb` from nothing, one mass when both read alike."""
    last = format_mass(high, units)
    number, _, unit = last.rpartition(" ")
    each = {"lb": GRAMS_PER_POUND, "oz": GRAMS_PER_OUNCE, "kg": Decimal(1000), "g": Decimal(1)}[unit]
    step = {"lb": "0.1", "oz": "0.1", "kg": "0.01", "g": "1"}[unit]
    first = _rounded(Decimal(low) / each, step)
    if first == number:
        return last
    return f"up to {last}" if float(first.replace(",", "")) == 0 else f"{first} to {last}"


MASS_UNIT: dict[Units, str] = {"us": "lb", "metric": "kg"}  # of tables


def mass_in(grams: Decimal | float, units: Units) -> Decimal:
    """A mass [g] in the unit that tables have, to the hundredth.

    >>> mass_in(1000, "us")
    Decimal('2.20')
    """
    return (Decimal(grams) / (GRAMS_PER_POUND if units == "us" else Decimal(1000))).quantize(
        Decimal("0.01"), ROUND_HALF_UP
    )


def format_temperature(celsius: Decimal | float, units: Units) -> str:
    """Text of a temperature [°C], to the whole degree."""
    value = Decimal(celsius)
    degrees = value if units == "metric" else value * 9 / 5 + 32
    rounded = degrees.quantize(Decimal(1), ROUND_HALF_UP)
    letter = "C" if units == "metric" else "F"
    return f"{'−' if rounded < 0 else ''}{abs(rounded)} °{letter}"


def temperatures_in(text: str, units: Units) -> str:
    """A sentence with its degrees Celsius told in the units of a school.

    >>> temperatures_in("Nights below 13 °C, days above 32 °C.", "us")
    'Nights below 55 °F, days above 90 °F.'
    """
    return re.sub(r"-?\d+(?:\.\d+)? °C", lambda found: format_temperature(float(found[0][:-3]), units), text)


def format_rain(mm: Decimal | float, units: Units) -> str:
    """Text of a depth of rain [mm]: inches to a tenth, or whole millimetres."""
    value = Decimal(mm)
    return f"{_rounded(value / MM_PER_INCH, '0.1')} in" if units == "us" else f"{_rounded(value, '1')} mm"


def format_volume(litres: Decimal | float, units: Units) -> str:
    """Text of a volume [L]: cubic feet from one on, as soil is sold, or litres."""
    value = Decimal(litres)
    if units == "us":
        return f"{_rounded(value / (MM_PER_FOOT**3 / 1_000_000), '0.1')} cu ft"
    return f"{_rounded(value, '1')} L"


def format_water(litres: Decimal | float, units: Units) -> str:
    """Text of an amount of water [L]: gallons or litres, with a tenth below ten.

    >>> format_water(61, "us"), format_water(4.25, "metric"), format_water(0, "us")
    ('16 gal', '4.3 L', '0 gal')
    """
    value = Decimal(litres) / (LITRES_PER_GALLON if units == "us" else 1)
    if value == 0:
        return "0 gal" if units == "us" else "0 L"
    return f"{_rounded(value, '1' if value >= Decimal('9.95') else '0.1')} {'gal' if units == 'us' else 'L'}"


def area_units(square_metres: float, units: Units) -> float:
    """Area [m²] in square feet or square metres."""
    return square_metres / float(SQUARE_METRES_PER_SQUARE_FOOT) if units == "us" else square_metres


def format_area(square_metres: float, units: Units) -> str:
    """Text of an area [m²]."""
    value = Decimal(area_units(square_metres, units))
    return f"{_rounded(value, '0.1')} {'sq ft' if units == 'us' else 'm²'}"


def format_yield(grams_per_square_metre: float, units: Units) -> str:
    """Text of a yield [g/m²]: pounds per square foot or kilograms per square metre, to a hundredth."""
    if units == "us":
        value = Decimal(grams_per_square_metre) * SQUARE_METRES_PER_SQUARE_FOOT / GRAMS_PER_POUND
        return f"{_rounded(value, '0.01')} lb per sq ft"
    return f"{_rounded(Decimal(grams_per_square_metre) / 1000, '0.01')} kg per m²"


def _parse(text: str, known: dict[str, Decimal], bare_unit: str, quantity: str) -> Decimal:
    kind, advice = Phrase(f"units.{quantity}"), Phrase(f"units.write_{quantity}")
    cleaned = _tidy(text)
    if not cleaned or len(cleaned) > LONGEST_TEXT:
        raise BadInput("units.quantity_missing" if not cleaned else "units.quantity_too_long", kind=kind, advice=advice)
    if cleaned.startswith("-"):
        raise BadInput("units.below_zero", text=_short(text), kind=kind, advice=advice)
    total, at, last_factor = Decimal(0), 0, None
    while at < len(cleaned):
        part = _PART.match(cleaned, at)
        if part is None:
            raise BadInput("units.not_a_quantity", text=_short(text), kind=kind, advice=advice)
        unit = (part["unit"] or (bare_unit if at == 0 and part.end() == len(cleaned) else "")).rstrip(".")
        if unit not in known:
            raise BadInput(
                "units.unit_unsaid" if not unit else "units.unit_unknown",
                text=_short(text),
                advice=advice,
                unit=unit,
                kind=kind,
            )
        if last_factor is not None and known[unit] >= last_factor:
            raise BadInput("units.units_out_of_order", text=_short(text), kind=kind, advice=advice)
        last_factor = known[unit]
        total += _number(part["number"], text, unit) * last_factor
        at = part.end()
    if total > LONGEST_MM:
        raise BadInput("units.too_large", text=_short(text), advice=advice)
    return total.quantize(Decimal("0.0001"), ROUND_HALF_UP)


def _tidy(text: str) -> str:
    lowered = text.strip().lower()
    for vulgar, plain in _VULGAR.items():
        lowered = lowered.replace(vulgar, f" {plain}")
    for typographic, plain in {"′": "'", "’": "'", "″": '"', "”": '"', "''": '"', "−": "-", "–": "-"}.items():
        lowered = lowered.replace(typographic, plain)
    return re.sub(r"(\d)-(\d+/\d)", r"\1 \2", lowered.strip())


def _number(text: str, whole: str, unit: str) -> Decimal:
    total = Fraction(0)
    for word in text.split() if "/" in text else [plain_number(text, thousandths=unit in IN_THOUSANDTHS)]:
        if re.fullmatch(r"\d+/0+", word):
            raise BadInput("units.divides_by_nothing", text=_short(whole))
        total += Fraction(word)
    return Decimal(total.numerator) / Decimal(total.denominator)


def _short(text: str) -> str:
    return text if len(text) <= 40 else text[:39] + "…"


def _plain(value: Decimal) -> str:
    """Without an exponent and without zeros behind the point."""
    return f"{value.normalize():f}"


def _rounded(value: Decimal, step: str) -> str:
    return f"{value.quantize(Decimal(step), ROUND_HALF_UP):f}"


def _mixed(value: Fraction) -> str:
    whole, rest = divmod(value, 1)
    if not rest:
        return str(whole)
    return f"{whole} {rest}" if whole else str(rest)
