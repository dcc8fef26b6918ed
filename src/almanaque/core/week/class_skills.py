"""Which class can do a job: old enough for the crop and the tool, enough hands, and nothing that its flags forbid."""

from collections.abc import Iterable

from almanaque.core.crops.crop import Crop
from almanaque.core.year.tending import Practice

# Youngest age [years] for a step whatever the crop: stakes, shears and spades. Our own rule; the school's rules come first.
STEP_AGES = {"support": 8, "cut back": 9, "divide": 8}
BY_CROP = frozenset(
    {"sow", "transplant", "start indoors", "pot up", "thin", "scape"}
)  # steps for which the crop's own age counts
# Fewest children with whom a step is done in a lesson: our own rule.
LEAST_CHILDREN = {"prepare bed": 6, "mulch": 6, "clear": 4}
# Tools of a step, by the words that flags use for them.
TOOLS = {
    "support": ("hammer", "mallet", "stake", "cane"),
    "cut back": ("shears", "pruner", "secateur", "knife", "blade"),
    "divide": ("spade", "knife", "fork"),
    "prepare bed": ("fork", "spade"),
    "clear": ("fork", "spade"),
}


def least_age(step: str, crop: Crop | None, practice: Practice | None = None) -> int:
    """Youngest age [years] that usually does a step by itself; 0 where any age does. `practice` says so for a step of tending."""
    if practice is not None:
        return practice.ages_from
    of_crop = crop.ages_from if crop is not None and step in BY_CROP else 0
    return max(STEP_AGES.get(step, 0), of_crop)


def able(
    step: str,
    crop: Crop | None,
    *,
    age: int | None,
    children: int,
    not_handled: Iterable[str],
    practice: Practice | None = None,
) -> bool:
    """Whether a class can do a step. `age` is None for mixed groups, which have older ones among them.

    `not_handled` are the words of its flags on what it may not handle. **Source:** common practice and our own rules.
    """
    if age is not None and age < least_age(step, crop, practice):
        return False
    if children < LEAST_CHILDREN.get(step, 0):
        return False
    words = " ".join(not_handled).lower()
    return not any(tool in words for tool in (practice.tools if practice is not None else TOOLS.get(step, ())))
