"""What the sowing finder is asked, as it was typed and as it is read."""

from dataclasses import dataclass
from datetime import date

from pydantic import BaseModel

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.nearest_fit import Aim
from almanaque.core.growth.setting import Setting
from almanaque.store.garden.garden import Bed
from almanaque.web import frame
from almanaque.web.garden.paint_form import FIRST_CROP
from almanaque.web.request_scope import UnitOfWork

AIMS: dict[Aim, str] = {"ready": "ready for", "picked": "picked before", "set out": "big enough to set out by"}


class FinderForm(BaseModel):
    """What the page is asked: crop, way, place, and perhaps a day to be ready for; `planting` is the one that is to be moved."""

    crop: str = FIRST_CROP
    method: str = ""
    bed: str = ""
    cover: str = ""
    aim: str = "ready"
    by: str = ""
    sow: str = ""
    starts: str = ""
    planting: str = ""


@dataclass(frozen=True)
class FinderQuery:
    """The question, read."""

    crop: Crop
    method: Method
    bed: Bed | None
    cover: CoverKey | None
    setting: Setting
    aim: Aim
    goal: date | None
    sow: date | None
    first: date


def address(work: UnitOfWork, form: FinderForm, **change: str) -> str:
    """The address of this page with some of its fields changed."""
    fields = form.model_copy(update={"starts": "", **change}).model_dump()
    return frame.address(work, "/year/finder", **{key: value for key, value in fields.items() if value})
