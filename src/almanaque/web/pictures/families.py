"""A colour and a hatch of our own for every plant family, so that nothing is told by colour alone."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Hatch:
    """A pattern tile of `size` pixels, `turn` degrees, with a light `mark` path over the colour."""

    key: str
    name: str
    colour: str
    size: int
    turn: int
    mark: str
    mark_width: float

    @property
    def fill(self) -> str:
        return f"url(#family-{self.key})"


def _hatch(name: str, colour: str, mark: str, *, size: int = 8, turn: int = 0, width: float = 1.6) -> Hatch:
    return Hatch(name.lower(), name, colour, size, turn, mark, width)


_DOT = "M4 4h.01"
FAMILIES: dict[str, Hatch] = {
    hatch.name: hatch
    for hatch in (
        _hatch("Amaranthaceae", "#8c2f63", "M0 4h8", turn=-30, size=7),
        _hatch("Amaryllidaceae", "#6a58a8", "M0 3h8", size=6, width=1.4),
        _hatch("Apiaceae", "#c05a1c", "M3 0v6", size=6, width=1.4),
        _hatch("Asteraceae", "#6f7d14", _DOT, size=7, width=2.4),
        _hatch("Brassicaceae", "#24706d", "M0 4h8", turn=45),
        _hatch("Cucurbitaceae", "#a8780a", "M0 5h10M5 0v10", size=10, turn=45, width=1.2),
        _hatch("Fabaceae", "#4b7f29", "M4 0v8", size=8, turn=20),
        _hatch("Grossulariaceae", "#8d3a4a", "M0 4h8", turn=15, size=8, width=1.2),
        _hatch("Lamiaceae", "#4d6fa3", "M0 2h6M0 5h3", size=6, width=1.2),
        _hatch("Plantaginaceae", "#a8486f", "M1 2h2M5 6h2", size=8, width=1.6),
        _hatch("Polygonaceae", "#7a3f52", "M0 8L8 0", size=8, width=1.8),
        _hatch("Poaceae", "#8a7430", "M0 3h6M3 0v6", size=6, width=1),
        _hatch("Rosaceae", "#b23660", "M2 2h.01M6 6h.01", size=8, width=2.2),
        _hatch("Apocynaceae", "#7d5a86", "M0 4h8M4 0v3", size=8, width=1.1),
        _hatch("Asparagaceae", "#3f7a55", "M1 6L4 0L7 6", size=8, width=1.1),
        _hatch("Boraginaceae", "#3d68a8", "M4 1v6M1 4h6", size=9, width=1.2),
        _hatch("Caprifoliaceae", "#5f7f45", "M0 6h4M4 2h4", size=8, width=1.4),
        _hatch("Convolvulaceae", "#94508a", "M0 2C3 -1 5 5 8 2", size=8, width=1.3),
        _hatch("Ericaceae", "#44609c", "M4 4h.01M0 0h.01M8 8h.01", size=8, width=3),
        _hatch("Linaceae", "#5b7fb0", "M2 0v8M5 0v8", size=8, width=0.9),
        _hatch("Malvaceae", "#9a5d3b", "M0 0L8 8M8 0L0 8", size=10, width=1),
        _hatch("Tropaeolaceae", "#c2571f", "M4 1a3 3 0 1 0 .01 0", size=9, width=1.1),
        _hatch("Violaceae", "#6b4c9a", "M1 2L4 6L7 2", size=8, width=1.1),
        _hatch("Solanaceae", "#a53530", "M0 8L4 4L8 8M0 4L4 0L8 4", size=8, width=1.1),
    )
}
KEPT = Hatch("kept", "kept for something lasting", "#5d6b7d", 9, 60, "M0 4h9", 1.4)


def family(name: str) -> Hatch:
    """The hatch of a botanical family; families without one of their own share a plain one."""
    return FAMILIES.get(name, Hatch("other", "other", "#59635c", 8, 0, "M4 4h.01", 1.2))
