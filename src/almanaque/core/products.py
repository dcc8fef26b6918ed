"""What is made of a harvest, and the cautions that go with it. They defer to tested recipes, local law and the school's own rules."""

from typing import Literal, get_args

from almanaque.core.findings import Finding, Fix

Kind = Literal[
    "dried", "powder", "pickle", "in oil", "jam or chutney", "frozen", "cooked", "tea or herbs", "seedlings", "other"
]
KINDS: tuple[Kind, ...] = get_args(Kind)
PRACTICE = "common practice, no source"


def cautions(kind: Kind, *, for_sale: bool) -> list[Finding]:
    """What to know before such a thing is made, given away or sold. Every kind that is eaten has at least one."""
    found = []
    if kind == "in oil":
        found.append(
            Finding(
                "product_oil", "fault", kind,
                "Garlic, herbs or vegetables in oil kept at room temperature can carry botulism, which is neither seen nor smelt.",
                "Without air and acid the germs grow and leave their poison.",
                PRACTICE,
                (Fix("Keep it in the refrigerator and use it up within a few days, or freeze it; do not store, give away or sell it"),),
            )
        )  # fmt: skip
    if kind in ("pickle", "jam or chutney"):
        found.append(
            Finding(
                "product_recipe", "care", kind, "Pickles and preserves need a tested recipe, followed to the letter.",
                "Less vinegar, sugar or boiling than tested may leave dangerous germs alive.", PRACTICE,
                (Fix("Write down which tested recipe was followed"),),
            )
        )  # fmt: skip
    if kind in ("dried", "powder", "tea or herbs"):
        found.append(
            Finding(
                "product_dry", "care", kind, "Dry it until it is crisp, and throw out whatever smells musty or shows mould.",
                "What is packed half dry moulds in the jar. Only plants that were sown and are known go into it.", PRACTICE,
                (Fix("Look at the jars again after a week"),),
            )
        )  # fmt: skip
    if kind in ("cooked", "frozen", "other"):
        found.append(
            Finding(
                "product_kitchen", "care", kind, "Cooked food is made and kept by the rules of the school's kitchen.",
                "Time and temperature decide whether it is safe.", PRACTICE, (Fix("Ask whoever runs the kitchen"),),
            )
        )  # fmt: skip
    if kind != "seedlings":
        found.append(
            Finding(
                "product_allergy", "care", kind, "Say on the label what is in it.",
                "Someone who eats it may be allergic; the school's own rule on allergies goes first.", PRACTICE,
                (Fix("List every ingredient"),),
            )
        )  # fmt: skip
    if for_sale:
        found.append(
            Finding(
                "product_licence", "care", kind, "Selling is licensed locally: food, and in some places plants too.",
                "What may be sold, by whom and from which kitchen differs from place to place.", PRACTICE,
                (Fix("Ask the local authority before the first sale"),),
            )
        )  # fmt: skip
    return found
