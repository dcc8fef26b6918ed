"""Which stage of a plant is seen, by how much of its growth it has behind it."""

from almanaque.core.portrait.picture import Stage

SEEDLING, YOUNG, FULL = 0.05, 0.4, 0.8  # shares of growth up to which it is drawn so: our own rule


def stage_at(grown: float, *, ripe: bool, fruits: bool) -> Stage | None:
    """The stage at a share of growth (0 to 1), or None where nothing is up yet. What `fruits` flowers before it is `ripe`."""
    if grown <= 0:
        return None
    if ripe:
        return "ripe"
    if grown < SEEDLING:
        return "seedling"
    if grown < YOUNG:
        return "young"
    return "flower" if fruits and grown >= FULL else "grown"
