"""Garden: what the page for drawing the map shows."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import uuid4

from almanaque.commands.garden import beds, ground_changes, map_drawing, plants_on_map
from almanaque.commands.garden import site_map as commands
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, PASS_MM, WHEELCHAIR_MM
from almanaque.core.units import Units, format_length
from almanaque.store.garden import garden, site_features
from almanaque.store.garden import ground_changes as ground_changes_store
from almanaque.store.garden.garden import Bed, Site
from almanaque.store.garden.ground_changes import GroundChange
from almanaque.web import words
from almanaque.web.garden import feature_form, ground_pictures, map_form, site_map_picture
from almanaque.web.garden.ground_pictures import PictureView
from almanaque.web.garden.site_map_picture import SiteMap
from almanaque.web.pictures.families import FAMILIES, Hatch
from almanaque.web.request_scope import UnitOfWork
from almanaque.web.view import View

USUAL_BED_MM: dict[Units, tuple[float, float]] = {"us": (8 * 304.8, 4 * 304.8), "metric": (2400.0, 1200.0)}


@dataclass(frozen=True)
class MapTool:
    """A tool of the map: what it draws, and how large a thing is that is set by a press alone [mm]."""

    key: str
    word: str
    icon: str
    what: str
    kind: str
    length_mm: float
    width_mm: float


TOOLS = (
    MapTool("bed", "Bed", "grid-3x3", "bed", "raised", 2438.4, 1219.2),
    MapTool("round", "Round pot", "circle", "bed", "container", 457.2, 457.2),
    MapTool("box", "Square pot", "square", "bed", "container", 457.2, 457.2),
    MapTool("tree", "Tree", "tree", "feature", "tree", 2438.4, 2438.4),
    MapTool("building", "Building", "house", "feature", "building", 3048.0, 2438.4),
    MapTool("path", "Path", "signpost-split", "feature", "path", 3048.0, 1219.2),
    MapTool("fence", "Fence", "bricks", "feature", "fence", 3048.0, 50.8),
    MapTool("tap", "Tap", "droplet", "feature", "tap", 203.2, 203.2),
)


@dataclass(frozen=True)
class StandingThingView(View):
    """A row of `EditMapView`."""

    id: str
    name: str
    kind: str
    days: str


@dataclass(frozen=True)
class EditMapView(View):
    """Filled by `values`, read by its template."""

    map: SiteMap
    hatches: list[Hatch]
    kinds: list[tuple[str, str]]
    thing_id: str
    known: bool
    fields: dict[str, str]
    bed: map_form.MapBedView | None
    chosen: str
    snap_mm: float
    nudge_mm: float
    site: Site
    show: str
    snap_words: str
    nudge_words: str
    site_size: str
    site_north: str
    site_corner: str
    adding: bool
    said: str
    error: str
    field: str
    undo: str
    redo: str
    ghost: str
    tools: tuple[MapTool, ...]
    pass_mm: float
    wheelchair_mm: float
    chosen_what: str
    pictures: list[PictureView]
    begins: bool
    usual_height: str
    plants: list[tuple[str, str]]
    standing: list[StandingThingView]


def values(
    work: UnitOfWork,
    *,
    thing: str = "",
    new: str = "",
    said: str = "",
    error: str = "",
    field: str = "",
    typed: Mapping[str, Any] | None = None,
) -> EditMapView:
    """What the map's page and its part are drawn from, with the thing that is chosen, what was done or why not."""
    site, units = site_of(work), work.context.school.units
    here, rows = garden.beds(work.connection), site_features.features(work.connection, work.day)
    every = site_features.features(work.connection)
    picture = site_map_picture.draw(
        site,
        here,
        rows,
        units=units,
        words={str(b.id): "" for b in here},
        short={str(b.id): b.purpose for b in here},
        planted={},
    )
    chosen = next((row for row in every if str(row.id) == thing), None)
    bed = next((b for b in here if str(b.id) == thing), None)
    kind = new if new in KINDS else (chosen.feature.kind if chosen else "tree")
    blank = feature_form.blank(site, kind, units)
    usual = KINDS[kind].height_mm
    return EditMapView(
        map=picture,
        hatches=list(FAMILIES.values()),
        kinds=[(key, k.words) for key, k in KINDS.items()],
        thing_id=str(chosen.id) if chosen else str(uuid4()),
        known=chosen is not None,
        fields=feature_form.shown_fields(chosen, units) if chosen else blank,
        bed=map_form.view(bed, units, typed) if bed else None,
        chosen=thing if bed or chosen else "",
        chosen_what="bed" if bed else "feature" if chosen else "",
        snap_mm=commands.SNAP_MM[units],
        nudge_mm=commands.NUDGE_MM[units],
        site=site,
        show="plants",
        snap_words="1 ft" if units == "us" else "10 cm",
        nudge_words="1 in" if units == "us" else "1 cm",
        site_size=feature_form.both(site.width_mm, site.depth_mm, units),
        site_north=f"{site.north_deg:g}",
        site_corner=f"{site.latitude:.6f}, {site.longitude:.6f}" if site.latitude is not None else "",
        adding=bool(new) or chosen is not None,
        said=said,
        error=error,
        field=field if bed and field in map_form.BOXES else "",
        undo=_step_words(ground_changes_store.next_undo(work.connection, work.actor().by)),
        redo=_step_words(ground_changes_store.next_redo(work.connection, work.actor().by)),
        ghost=_ghost(work, bed),
        tools=TOOLS,
        pass_mm=PASS_MM,
        wheelchair_mm=WHEELCHAIR_MM,
        pictures=ground_pictures.views(work, site),
        begins=bool(here) and not garden.plantings(work.connection, since=work.today),
        usual_height=format_length(usual, units) if usual else "",
        plants=[(c.key, c.name.en) for c in plants_on_map.crops_for(work.context)]
        if chosen and chosen.feature.kind in plants_on_map.KINDS and chosen.to_day is None
        else [],
        standing=[
            StandingThingView(
                id=str(row.id),
                name=row.feature.name,
                kind=KINDS[row.feature.kind].words,
                days=" ".join(
                    filter(
                        None,
                        (
                            f"from {words.short_day(row.from_day)} {row.from_day.year}" if row.from_day else "",
                            f"until {words.short_day(row.to_day)} {row.to_day.year}" if row.to_day else "",
                        ),
                    )
                ),
            )
            for row in every
        ],
    )


def _step_words(changes: Sequence[GroundChange]) -> str:
    return ground_changes.words(changes) if changes else ""


def _ghost(work: UnitOfWork, like: Bed | None) -> str:
    """The first free place of a bed like the chosen one, or of the usual size: `x,y,length,width` in millimetres; empty without one."""
    length, width = (like.length_mm, like.width_mm) if like else USUAL_BED_MM[work.context.school.units]
    found = map_drawing.place_for(work.connection, work.context, Shape(0, 0, length, width), work.today)
    return f"{found[0]:.4f},{found[1]:.4f},{length:.4f},{width:.4f}" if found else ""


def site_of(work: UnitOfWork) -> Site:
    """The school's site; one to begin with where it has none."""
    return beds.ground_of(work.connection, work.context, None)
