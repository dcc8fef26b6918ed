"""Photos from strangers' phones: upright, small, without what the camera wrote; bombs and rubbish refused in a sentence."""

import io
import struct
import zlib

import pytest
from PIL import Image

from almanaque.core.errors import BadInput
from almanaque.formats.journal import photo
from almanaque.formats.journal.photo import LARGE, SMALL, made_small
from tests.refuses import refuses


def jpeg(size: tuple[int, int] = (60, 40), **more: object) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (40, 120, 60)).save(out, "JPEG", **more)
    return out.getvalue()


def png_that_says(width: int, height: int) -> bytes:
    """A tiny file whose header announces so many pixels."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


def test_a_large_photo_is_made_small_and_twice() -> None:
    made = made_small(jpeg((4000, 3000)), "leaf.jpg")
    large, small = Image.open(io.BytesIO(made.picture)), Image.open(io.BytesIO(made.small))
    assert (large.size, large.format) == ((LARGE, 1200), "JPEG")
    assert (made.width, made.height) == large.size
    assert max(small.size) == SMALL


def test_nothing_that_the_camera_wrote_is_left_and_the_picture_stands_upright() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # turned by a quarter
    exif[0x010F] = "Maker of the camera"
    exif.get_ifd(0x8825)[2] = (52.0, 1.0, 2.0)  # where it was taken
    body = jpeg((60, 40), exif=exif.tobytes(), comment=b"a child's name")
    assert b"Maker" in body
    made = made_small(body, "leaf.jpg")
    out = Image.open(io.BytesIO(made.picture))
    assert out.size == (40, 60)
    assert len(out.getexif()) == 0
    assert not {"comment", "exif", "icc_profile"} & set(out.info)
    assert b"Maker" not in made.picture + made.small


@pytest.mark.parametrize("size", [(8000, 5001), (60_000, 60_000), (2**31 - 1, 2**31 - 1)])
def test_a_bomb_is_refused_by_the_size_it_announces_before_anything_is_unpacked(
    size: tuple[int, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    def unpacked(*_: object) -> None:
        raise AssertionError("its pixels were unpacked")

    monkeypatch.setattr(photo.ImageOps, "exif_transpose", unpacked)
    with pytest.raises(BadInput, match="megapixels, more than 40|no picture that can be read") as refused:
        made_small(png_that_says(*size), "bomb.png")
    assert refused.value.field == "file"


@pytest.mark.parametrize(
    "body",
    [
        b"",
        b"not a picture",
        b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        b"GIF89a\x01\x00\x01\x00",
        jpeg()[:200],
        b"\xff\xd8\xff" + b"\0" * 500,
        png_that_says(200, 200),
    ],
)
def test_what_is_no_picture_is_refused_in_a_sentence(body: bytes) -> None:
    with refuses("journal.no_picture"):
        made_small(body, "thing.bin")


def test_a_file_that_is_too_large_is_refused_unread() -> None:
    with pytest.raises(BadInput, match="larger than 12 MB"):
        made_small(b"\0" * (photo.MOST_BYTES + 1), "big.jpg")


@pytest.mark.parametrize("mode", ["RGBA", "P", "L", "CMYK"])
def test_pictures_of_other_kinds_become_plain_ones(mode: str) -> None:
    out = io.BytesIO()
    Image.new(mode, (30, 20)).save(out, "PNG" if mode != "CMYK" else "JPEG")
    assert Image.open(io.BytesIO(made_small(out.getvalue(), "x").picture)).mode == "RGB"
