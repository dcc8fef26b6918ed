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
        _hatch("Rutaceae", "#b59a1d", "M4 1v3M4 6v1", size=9, width=1.4),
        _hatch("Moraceae", "#6b4a63", "M1 5c2-3 4-3 6 0", size=8, width=1.2),
        _hatch("Oleaceae", "#70803c", "M2 6L6 2", size=8, width=1.8),
        _hatch("Rubiaceae", "#5a6d8f", "M4 2v4M2 4h4", size=9, turn=45, width=1.2),
        _hatch("Passifloraceae", "#7a4fa0", "M4 4m-2 0a2 2 0 1 0 4 0", size=9, width=1),
        _hatch("Aristolochiaceae", "#6d3b2f", "M1 2q3 5 6 0", size=8, width=1.2),
        _hatch("Lauraceae", "#8a8a2b", "M0 1h3M5 5h3", size=9, turn=20, width=1.4),
        _hatch("Rhamnaceae", "#4f6f5f", "M1 1h2M5 5h2", size=9, turn=60, width=1.8),
        _hatch("Ranunculaceae", "#5665a8", "M4 1l2 5h-4z", size=9, width=1),
        _hatch("Papaveraceae", "#c4621f", "M4 2a2 2 0 1 0 .01 0", size=8, width=1.6),
        _hatch("Montiaceae", "#a3567c", "M3 3h.01M5 5h.01", size=9, width=2),
        _hatch("Liliaceae", "#a06a2c", "M4 0L2 7M4 0l2 7", size=9, width=1.1),
        _hatch("Iridaceae", "#5b479c", "M4 0v5M2 2l2 3l2-3", size=9, width=1.1),
        _hatch("Primulaceae", "#9a8a1a", "M4 3h.01M2 6h.01M6 6h.01", size=9, width=2),
        _hatch("Araliaceae", "#3a6449", "M4 0l3 7h-6z", size=10, width=1),
        _hatch("Salicaceae", "#66794a", "M1 0v8M4 0v8", size=9, turn=-20, width=1),
        _hatch("Campanulaceae", "#4f5cab", "M2 1v4q2 3 4 0v-4", size=9, width=1.1),
        _hatch("Plumbaginaceae", "#3f7fa6", "M0 0h.01M5 5h.01", size=10, turn=30, width=2.6),
        _hatch("Asphodelaceae", "#b5562a", "M0 8L8 0", size=9, turn=12, width=1.2),
        _hatch("Verbenaceae", "#7d4a92", "M1 3h6", size=8, turn=70, width=1.6),
        _hatch("Alstroemeriaceae", "#b8622f", "M0 4q2-3 4 0t4 0", size=8, width=1.2),
        _hatch("Onagraceae", "#a83f66", "M4 0v3M4 5a1.5 1.5 0 1 0 .01 0", size=9, width=1.1),
        _hatch("Myrtaceae", "#9b3838", "M1 1v6M3 1v6M5 1v6", size=9, width=0.9),
        _hatch("Haemodoraceae", "#7e4632", "M1 6L4 1L7 6", size=9, width=1.2),
        _hatch("Proteaceae", "#8f4d4d", "M4 4l3-3M4 4l3 3M4 4l-3 0", size=9, width=1.1),
    )
}
KEPT = Hatch("kept", "kept for something lasting", "#5d6b7d", 9, 60, "M0 4h9", 1.4)


def family(name: str) -> Hatch:
    """The hatch of a botanical family; families without one of their own share a plain one."""
    return FAMILIES.get(name, Hatch("other", "other", "#59635c", 8, 0, "M4 4h.01", 1.2))
