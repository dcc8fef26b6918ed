"""Money of the garden: typed amounts, purposes with a goal, what produce is worth. Amounts are minor units of one currency."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from almanaque.core.errors import BadInput
from almanaque.core.units import plain_quantity

Kind = Literal["sale", "grant", "gift", "purchase"]
KINDS: tuple[Kind, ...] = ("sale", "grant", "gift", "purchase")
SIGNS = {"$": "", "€": "EUR", "£": "GBP", "¥": "JPY"}
MOST_MINOR = 10_000_000_000  # a hundred million in hundredths: our own rule


@dataclass(frozen=True)
class MoneyEntry:
    """A line of the ledger. `minor` is above 0; a purchase takes it out."""

    kind: Kind
    minor: int
    purpose: str = ""


@dataclass(frozen=True)
class Balance:
    """Money that came in and went out for one purpose, and its goal if it has one."""

    came: int
    spent: int
    goal: int | None

    @property
    def left(self) -> int:
        return self.came - self.spent

    @property
    def share(self) -> float | None:
        """How much of the goal has come in, at most 1."""
        return min(1.0, self.came / self.goal) if self.goal else None


def parse(text: str, currency: str, *, field: str = "amount") -> int:
    """An amount in minor units from `12`, `12.50`, `12,50`, `$12.50` or `12.50 USD`. Raises BadInput for another currency.

    A dollar sign is taken for the school's own dollars; every other sign and code must be the school's currency.
    """
    plain = plain_quantity(text)
    match = re.fullmatch(
        r"([A-Za-z]{3}|[$€£¥])? ?(\d{1,9}(?:,\d{3})*|\d+)(?:[.,](\d{1,2}))? ?([A-Za-z]{3}|[$€£¥])?", plain, re.ASCII
    )
    if match is None or (match[1] and match[4]):
        raise BadInput("harvest.not_money", field=field, text=plain[:20])
    said = (match[1] or match[4] or "").upper()
    code = SIGNS.get(said, said)
    if code and code != currency:
        raise BadInput("harvest.other_currency", field=field, currency=currency, text=plain[:20])
    minor = int(match[2].replace(",", "")) * 100 + int((match[3] or "0").ljust(2, "0"))
    if not 0 < minor <= MOST_MINOR:
        raise BadInput("harvest.money_out_of_range", field=field)
    return minor


def write(minor: int, currency: str) -> str:
    """`12.50 USD`; below nothing with a minus sign."""
    return f"{'−' if minor < 0 else ''}{abs(minor) // 100:,}.{abs(minor) % 100:02d} {currency}"


def balances(entries: Iterable[MoneyEntry], goals: Mapping[str, int | None]) -> dict[str, Balance]:
    """What came and went for each purpose; entries without one stand under an empty name."""
    came: dict[str, int] = dict.fromkeys(goals, 0)
    spent: dict[str, int] = dict.fromkeys(goals, 0)
    for entry in entries:
        came.setdefault(entry.purpose, 0)
        spent.setdefault(entry.purpose, 0)
        (spent if entry.kind == "purchase" else came)[entry.purpose] += entry.minor
    return {name: Balance(came[name], spent[name], goals.get(name)) for name in came}


def worth(grams: Decimal | float, *, price_minor: int, grams_per_unit: float) -> int:
    """What so much is worth [minor units] at a price for a unit of so many grams, rounded to the nearest."""
    return round(float(grams) / grams_per_unit * price_minor)
