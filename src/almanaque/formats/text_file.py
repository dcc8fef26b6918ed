"""Bytes that somebody sends, as text; or a sentence that names the file and what to do."""

import codecs

from almanaque.core.errors import BadInput

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def read(body: bytes, name: str, *, most_bytes: int) -> str:
    """The text of a file in UTF-8, or in UTF-16 with its mark. Raises BadInput for another encoding, or one too large."""
    if len(body) > most_bytes:
        raise BadInput(f"{name} is larger than {most_bytes / 1_000_000:g} MB. Export less at a time.", field="file")
    if not body.strip():
        raise BadInput(f"{name} is empty. Choose the file again.", field="file")
    encoding = next((found for mark, found in _MARKS if body.startswith(mark)), "utf-8")
    try:
        text = body.decode(encoding)
    except UnicodeDecodeError as error:
        line = body.count(b"\n", 0, error.start) + 1
        raise BadInput(
            f"{name}, line {line}: this is not UTF-8 text. Save the file again with the encoding UTF-8.", field="file"
        ) from None
    if "\0" in text:
        raise BadInput(
            f"{name} is not a text file. Choose the file that the calendar or the station exported.", field="file"
        )
    return text
