"""Drawings beside a question in the garden: what the plant may look like, each with its word."""

from almanaque.core.crops.crop import Crop
from almanaque.core.journal.tour import Code
from almanaque.core.portrait.picture import Stage
from almanaque.formats.crops import portraits

PX = 120.0  # about the height of a drawing on the phone


def drawings(crop: Crop, code: Code) -> list[tuple[str, str]]:
    """Address and word of each drawing that helps to answer a question about a crop; none where a drawing says nothing."""
    if code == "ready":
        return ripe_or_not(crop)
    return [(portraits.address(crop, stage, px=PX), word) for stage, word in _STAGES.get(code, ())]


def ripe_or_not(crop: Crop) -> list[tuple[str, str]]:
    """The crop before it is picked and when it is ready."""
    before: Stage = "unripe" if crop.part in portraits.FRUITS and crop.part != "flower" else "young"
    ready: Stage = "flower" if crop.part == "flower" else "ripe"
    return [(portraits.address(crop, before, px=PX), "not yet"), (portraits.address(crop, ready, px=PX), "ready")]


_STAGES: dict[Code, tuple[tuple[Stage, str], ...]] = {
    "up": (("seedling", "like this"),),
    "bolted": (("grown", "as it should be"), ("gone to seed", "bolted")),
    "flowers": (("flower", "in flower"),),
    "ending": (("flower", "in flower"), ("gone to seed", "gone to seed")),
}
