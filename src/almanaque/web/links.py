"""Addresses to give away, and their QR codes. They begin with the configured public address, else with the request's."""

from itertools import groupby

import segno
from fastapi import Request


def address(request: Request, path: str) -> str:
    """The whole address of a page of ours."""
    public = request.app.state.settings.public_url.rstrip("/")
    return f"{public or str(request.base_url).rstrip('/')}{path}"


def qr_path(text: str) -> tuple[str, int]:
    """The dark squares of a QR code as one SVG path, and the side of the whole in squares, quiet zone included."""
    code = segno.make(text, error="m", micro=False)
    border = 4
    parts = []
    for y, row in enumerate(code.matrix):
        x = 0
        for dark, run in groupby(row):
            length = len(list(run))
            if dark:
                parts.append(f"M{x + border} {y + border}h{length}v1h-{length}z")
            x += length
    return "".join(parts), len(code.matrix) + 2 * border
