"""What is made of a harvest, and the cautions that go with it. They defer to tested recipes, local law and the school's own rules."""

from dataclasses import dataclass
from typing import Literal, get_args

from almanaque.core.findings import Finding, Fix, Severity

Kind = Literal[
    "dried", "powder", "pickle", "in oil", "jam or chutney", "frozen", "cooked", "tea or herbs", "seedlings", "other"
]
KINDS: tuple[Kind, ...] = get_args(Kind)
PRACTICE = "practice"
EATEN = tuple(kind for kind in KINDS if kind != "seedlings")


@dataclass(frozen=True)
class Caution:
    """What to know of some kinds of product: its words are those of its code."""

    code: str
    severity: Severity
    kinds: tuple[Kind, ...]


CAUTIONS = (
    Caution("product_oil", "fault", ("in oil",)),
    Caution("product_recipe", "care", ("pickle", "jam or chutney")),
    Caution("product_dry", "care", ("dried", "powder", "tea or herbs")),
    Caution("product_kitchen", "care", ("cooked", "frozen", "other")),
    Caution("product_allergy", "care", EATEN),
)
FOR_SALE = Caution("product_licence", "care", KINDS)


def cautions(kind: Kind, *, for_sale: bool) -> list[Finding]:
    """What to know before such a thing is made, given away or sold. Every kind that is eaten has at least one.

    **Source:** common practice, no source.
    """
    known = [caution for caution in CAUTIONS if kind in caution.kinds] + ([FOR_SALE] if for_sale else [])
    return [Finding(c.code, c.severity, kind, {}, PRACTICE, (Fix(f"for_{c.code}"),)) for c in known]
