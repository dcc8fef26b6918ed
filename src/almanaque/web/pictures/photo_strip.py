"""Photos of the same, then and now, and those in between."""

from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.journal.photo_series import SeriesPhoto, series
from almanaque.store.journal.photos import Photo
from almanaque.web import words
from almanaque.web.view import View


@dataclass(frozen=True)
class StripPhotoView(View):
    """A photo with its day, and in words what it shows."""

    id: str
    day: str
    alt: str


@dataclass(frozen=True)
class PhotoStripView(View):
    """Then and now, large, and all of the series, small; `place` is where it was taken from."""

    then: StripPhotoView
    now: StripPhotoView
    strip: list[StripPhotoView]
    place: str


def strip(photos: Sequence[Photo], of: str) -> PhotoStripView | None:
    """The photos that compare best; None where there are not two that lie apart. `of` names what they show."""
    known = {str(p.id): p for p in photos}
    found = series([SeriesPhoto(str(p.id), p.noted_on, p.viewpoint) for p in photos])
    if not found:
        return None
    shown = [photo_view(known[one.id], of) for one in found]
    return PhotoStripView(
        then=shown[0], now=shown[-1], strip=shown if len(shown) > 2 else [], place=known[found[0].id].viewpoint
    )


def photo_view(photo: Photo, of: str) -> StripPhotoView:
    day = f"{words.short_day(photo.noted_on)} {photo.noted_on.year}"
    return StripPhotoView(id=str(photo.id), day=day, alt=photo.caption or f"Photo of {of}")
