"""How many school days a year usually has in a country. **Source:** the number of instruction days in general primary education of
international comparisons and the minimum of laws, from memory; only used to ask when a calendar is far from it."""

_DAYS: dict[str, tuple[int, int]] = {
    "US": (175, 185),
    "CA": (180, 195),
    "MX": (185, 200),
    "GB": (188, 192),
    "IE": (182, 185),
    "AU": (190, 202),
    "NZ": (185, 196),
    "ZA": (190, 205),
    "DE": (185, 200),
    "AT": (180, 190),
    "CH": (185, 195),
    "FR": (140, 180),
    "BE": (170, 185),
    "NL": (185, 200),
    "ES": (170, 182),
    "PT": (170, 185),
    "IT": (170, 205),
    "SE": (176, 184),
    "NO": (188, 192),
    "DK": (195, 202),
    "FI": (186, 190),
    "PL": (175, 190),
    "CZ": (185, 196),
    "JP": (195, 220),
    "IN": (200, 225),
    "BR": (198, 204),
    "AR": (178, 192),
    "CL": (175, 195),
    "CO": (195, 202),
    "KE": (185, 200),
    "PH": (180, 210),
}
ANYWHERE = (165, 205)


def days(country: str) -> tuple[int, int]:
    """The usual least and most school days of a year; a wide range for a country that is not listed."""
    return _DAYS.get(country, ANYWHERE)
