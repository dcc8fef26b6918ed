"""Bytes that somebody sends, as text; or a sentence that names the file and what to do."""

import codecs

from almanaque.core.errors import BadInput

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def read(body: bytes, name: str, *, most_bytes: int) -> str:
    """The text of a file in UTF-8, or in UTF-16 with its mark. Raises BadInput for another encoding, or one too large."""
    if len(body) > most_bytes:
        raise BadInput("files.file_too_large", field="file", name=name, most_megabytes=most_bytes / 1000000)
    if not body.strip():
        raise BadInput("files.file_empty", field="file", name=name)
    encoding = next((found for mark, found in _MARKS if body.startswith(mark)), "utf-8")
    try:
        text = body.decode(encoding)
    except UnicodeDecodeError as error:
        line = body.count(b"\n", 0, error.start) + 1
        raise BadInput("files.not_utf8", field="file", name=name, line=line) from None
    if "\0" in text:
        raise BadInput("files.not_text", field="file", name=name)
    return text
