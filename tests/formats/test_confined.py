"""Files that would take the server's time or memory are given up in a process of their own."""

import io
import struct
import zlib
from datetime import date

import pytest
from PIL import Image

from almanaque.core.errors import BadInput
from almanaque.formats import confined as module
from almanaque.formats.confined import confined
from almanaque.formats.journal import photo
from almanaque.formats.school import ical_in


def burn() -> None:
    while True:
        pass


def hoard(megabytes: int) -> int:
    return len(bytearray(megabytes * module.MEGABYTE))


def refuse() -> None:
    raise BadInput("files.file_empty", field="file", name="x.csv")


def fail() -> None:
    raise ZeroDivisionError


def write() -> None:
    with open("/tmp/almanaque-confined", "w", encoding="utf-8") as file:
        file.write("x" * 10_000)


def test_what_a_child_finds_comes_back() -> None:
    assert confined(hoard)(1) == module.MEGABYTE


@pytest.mark.parametrize(("work", "given"), [(burn, ()), (hoard, (64,))])
def test_a_child_that_takes_too_much_is_ended_and_said(work, given) -> None:
    with pytest.raises(BadInput, match="takes too long or too much room") as refused:
        confined(work, cpu_s=1, memory_mb=32)(*given)
    assert refused.value.field == "file"


def test_what_the_child_refuses_is_refused_with_its_own_sentence() -> None:
    with pytest.raises(BadInput, match="x.csv is empty") as refused:
        confined(refuse)()
    assert refused.value.field == "file"


def test_a_fault_of_ours_stays_one() -> None:
    with pytest.raises(RuntimeError, match="ZeroDivisionError"):
        confined(fail)()


def test_a_child_writes_nothing() -> None:
    with pytest.raises((BadInput, RuntimeError)):
        confined(write)()


def png(width: int, height: int) -> bytes:
    """A picture of one colour: few bytes that unpack to many."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    packer = zlib.compressobj(9)
    row = b"\0" + b"\x80\x90\xa0\xff" * width
    packed = b"".join(packer.compress(row) for _ in range(height)) + packer.flush()
    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def test_a_small_file_with_a_huge_picture_does_not_take_the_servers_memory() -> None:
    body = png(8000, 4900)
    assert len(body) < 200_000
    with pytest.raises(BadInput):
        confined(photo.made_small)(body, "bomb.png")


def test_a_photo_as_phones_take_them_goes_through() -> None:
    out = io.BytesIO()
    Image.effect_noise((4000, 3000), 60).convert("RGB").save(out, "JPEG", quality=85)
    made = confined(photo.made_small)(out.getvalue(), "leaf.jpg")
    assert (made.width, made.height) == (1600, 1200)
    assert (confined(photo.made_small)(png(3000, 2000), "screen.png")).width == 1600


@pytest.mark.parametrize(
    "rule",
    [
        "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30",
        "FREQ=DAILY;BYMONTHDAY=31;BYMONTH=2",
        "FREQ=YEARLY;BYDAY=53MO;BYMONTH=1",
        "FREQ=MONTHLY;BYSETPOS=300;BYDAY=MO",
    ],
)
def test_a_rule_that_never_comes_is_given_up_or_comes_to_nothing(rule: str) -> None:
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x"]
    for number in range(30):
        lines += ["BEGIN:VEVENT", f"UID:{number}", "DTSTART;VALUE=DATE:20270101", "SUMMARY:No school", f"RRULE:{rule}"]
        lines += ["END:VEVENT"]
    body = "\r\n".join([*lines, "END:VCALENDAR", ""]).encode()
    span = {"zone": "Europe/Oslo", "start": date(2027, 1, 1), "end": date(2028, 1, 1)}
    assert came_of(body, span) in ("", "files.takes_too_much", "school.too_many_repetitions")


def came_of(body: bytes, span: dict) -> str:
    try:
        assert len(confined(ical_in.read, cpu_s=3)(body, "x.ics", **span)) <= 30
    except BadInput as error:
        return error.code
    return ""
