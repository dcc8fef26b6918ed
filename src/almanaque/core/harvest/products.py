"""What is made of a harvest, and the cautions that go with it. They defer to tested recipes, local law and the school's own rules."""

from dataclasses import dataclass
from typing import Literal, get_args

from almanaque.core.findings import Finding, Fix, Severity

Kind = Literal[
    "dried", "powder", "pickle", "in oil", "jam or chutney", "frozen", "cooked", "tea or herbs", "seedlings", "other"
]
KINDS: tuple[Kind, ...] = get_args(Kind)
PRACTICE = "common practice, no source"
EATEN = tuple(kind for kind in KINDS if kind != "seedlings")


@dataclass(frozen=True)
class Caution:
    """What to know of some kinds of product: what may happen, why, and what to do."""

    code: str
    severity: Severity
    kinds: tuple[Kind, ...]
    message: str
    reason: str
    fix: str


CAUTIONS = (
    Caution(
        "product_oil",
        "fault",
        ("in oil",),
        "Garlic, herbs or vegetables in oil kept at room temperature can carry botulism, which is neither seen nor smelt.",
        "Without air and acid the germs grow and leave their poison.",
        "Keep it in the refrigerator and use it up within a few days, or freeze it; do not store, give away or sell it",
    ),
    Caution(
        "product_recipe",
        "care",
        ("pickle", "jam or chutney"),
        "Pickles and preserves need a tested recipe, followed to the letter.",
        "Less vinegar, sugar or boiling than tested may leave dangerous germs alive.",
        "Write down which tested recipe was followed",
    ),
    Caution(
        "product_dry",
        "care",
        ("dried", "powder", "tea or herbs"),
        "Dry it until it is crisp, and throw out whatever smells musty or shows mould.",
        "What is packed half dry moulds in the jar. Only plants that were sown and are known go into it.",
        "Look at the jars again after a week",
    ),
    Caution(
        "product_kitchen",
        "care",
        ("cooked", "frozen", "other"),
        "Cooked food is made and kept by the rules of the school's kitchen.",
        "Time and temperature decide whether it is safe.",
        "Ask whoever runs the kitchen",
    ),
    Caution(
        "product_allergy",
        "care",
        EATEN,
        "Say on the label what is in it.",
        "Someone who eats it may be allergic; the school's own rule on allergies goes first.",
        "List every ingredient",
    ),
)
FOR_SALE = Caution(
    "product_licence",
    "care",
    KINDS,
    "Selling is licensed locally: food, and in some places plants too.",
    "What may be sold, by whom and from which kitchen differs from place to place.",
    "Ask the local authority before the first sale",
)


def cautions(kind: Kind, *, for_sale: bool) -> list[Finding]:
    """What to know before such a thing is made, given away or sold. Every kind that is eaten has at least one.

    **Source:** common practice, no source.
    """
    known = [caution for caution in CAUTIONS if kind in caution.kinds] + ([FOR_SALE] if for_sale else [])
    return [Finding(c.code, c.severity, kind, c.message, c.reason, PRACTICE, (Fix(c.fix),)) for c in known]
