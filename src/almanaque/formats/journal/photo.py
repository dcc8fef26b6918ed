"""Photos that people send: their size is read before anything is decoded; what comes out is a plain JPEG without metadata."""

import io
from dataclasses import dataclass

from PIL import Image, ImageOps

from almanaque.core.errors import BadInput

MOST_PIXELS = 40_000_000
MOST_BYTES = 12_000_000
LARGE, SMALL = 1600, 360  # longest side as it is shown, and in lists [pixels]
KINDS = ("JPEG", "PNG", "WEBP")
Image.MAX_IMAGE_PIXELS = None  # our own limit below is the stricter one and has a sentence


@dataclass(frozen=True)
class Jpeg:
    """A JPEG with its size in pixels, and a small one."""

    picture: bytes
    small: bytes
    width: int
    height: int


def made_small(body: bytes, name: str) -> Jpeg:
    """The photo upright, at most 1600 pixels long, without metadata. Raises BadInput with a sentence for anything else.

    More than 40 megapixels are refused by the size that the file announces, before its pixels are unpacked.
    """
    if len(body) > MOST_BYTES:
        raise BadInput("journal.photo_too_large", field="file", name=name, most_megabytes=MOST_BYTES // 1000000)
    try:
        opened = Image.open(io.BytesIO(body), formats=KINDS)
    except Exception:  # a broken file may raise anything; none of it is more than "no picture"
        raise BadInput("journal.no_picture", field="file", name=name) from None
    width, height = opened.size
    if width * height > MOST_PIXELS:
        raise BadInput(
            "journal.too_many_megapixels",
            field="file",
            name=name,
            megapixels=width * height / 1000000,
            most=MOST_PIXELS // 1000000,
        )
    try:
        opened.draft("RGB", (LARGE, LARGE))  # a JPEG is unpacked no larger than it is needed
        upright = ImageOps.exif_transpose(opened)
        plain = upright.convert("RGB")
    except Exception:  # as above: cut off, or not what it says it is
        raise BadInput("journal.no_picture", field="file", name=name) from None
    large = _fitted(plain, LARGE)
    return Jpeg(_jpeg(large, 82), _jpeg(_fitted(plain, SMALL), 76), *large.size)


def _fitted(image: Image.Image, longest: int) -> Image.Image:
    """A new image from the pixels alone, so that nothing the file said beside them goes on."""
    copy = Image.new("RGB", image.size)
    copy.paste(image)
    copy.thumbnail((longest, longest), Image.Resampling.LANCZOS)
    return copy


def _jpeg(image: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, optimize=True, progressive=True)
    return out.getvalue()
