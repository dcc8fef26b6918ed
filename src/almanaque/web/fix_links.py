"""Where a finding's fix is done: at once by a button, or on the page that it leads to, filled in with all that was asked."""

from dataclasses import dataclass
from urllib.parse import urlencode

from almanaque.core.findings import Fix
from almanaque.store.garden.garden import Planting

FINDER = frozenset(
    {
        "against_chilled",
        "against_no_ground",
        "against_bolts_in_spring",
        "against_frost_risk",
        "against_heat_risk",
        "against_no_cold",
        "against_not_ripe",
        "against_not_up",
        "later_or_composted_manure",
        "later_or_cover",
        "other_sowing_day",
        "sooner_or_later",
    }
)  # what another day, way or cover mends
SOMETHING_ELSE = frozenset({"something_else", "something_else_between", "other_bed_or_family"})
OTHER_SQUARES = frozenset({"more_squares", "other_squares", "other_squares_or_days", "whole_blocks"})
SOIL = frozenset({"lime", "sulphur"})
PAGES = {
    "add_a_host": "/year/sow",
    "add_nectar": "/year/sow",
    "add_school_year": "/school",
    "add_weather": "/school/weather",
    "ask_carer_to_water": "/week/rounds",
    "choose_for_then": "/year/sow",
    "extra_visit": "/school/groups",
    "keep_one_way_wide": "/garden/map",
    "longer_hose": "/garden/map",
    "name_carers": "/week/rounds",
    "reached_from_the_path": "/garden/map",
    "someone_else": "/week",
    "sunnier_bed": "/garden?show=sun",
    "wider_bed": "/garden/map",
    "widen_the_path": "/garden/map",
}


@dataclass(frozen=True)
class FixLink:
    """A fix in words. `method` and `start_on` are filled where one press does it, `href` where a page does; neither for what is
    done in the garden."""

    label: str
    method: str
    start_on: str
    href: str


def link(fix: Fix, planting: Planting | None = None) -> FixLink:
    """A fix of a finding, on a planting if it speaks of one."""
    if fix.action == "cover" and planting is not None:
        return FixLink(fix.label, "", "", f"/garden/plantings/{planting.id}")
    if fix.action.startswith("start:"):
        return FixLink(fix.label, fix.action.removeprefix("start:"), fix.value, "")
    here = fix.value if fix.action == "page" else PAGES.get(fix.code, "")
    return FixLink(fix.label, "", "", here if planting is None else _on(fix, planting) or here)


def _on(fix: Fix, planting: Planting) -> str:
    """The page on which a fix of this planting is done; empty where it is none of the planting's own."""
    bed, first = f"/garden/beds/{planting.bed_id}", planting.start_on.isoformat()
    asked = {"crop": planting.crop, "method": planting.method}
    if fix.action == "bed":
        return f"/garden/beds/{fix.value}?{urlencode({'crop': planting.crop, 'start_on': first})}"
    if fix.code in OTHER_SQUARES:
        return f"{bed}?{urlencode({**asked, 'start_on': first})}"
    if fix.code in SOMETHING_ELSE:
        return f"{bed}/fits?{urlencode({'from': first})}"
    if fix.code in SOIL:
        return f"{bed}/soil"
    if fix.code == "other_class":
        return f"/garden/plantings/{planting.id}#grown-by"
    if fix.code == "plan_to_leave_it_in":
        return f"/garden/plantings/{planting.id}"
    if fix.code == "kind_ready_in":
        return f"/year/crops/{planting.crop}/figures"
    if fix.code in FINDER:
        held = {"bed": str(planting.bed_id), "cover": planting.cover or "", "starts": first, "planting": planting.id}
        return "/year/finder?" + urlencode({**asked, **held})
    return ""
