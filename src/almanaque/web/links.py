"""Addresses to give away, and their QR codes. They begin with the configured public address, else with the request's."""

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
        parts += [f"M{x + border} {y + border}h1v1h-1z" for x, dark in enumerate(row) if dark]
    return "".join(parts), len(code.matrix) + 2 * border
