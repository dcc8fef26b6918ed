"""Pictures of crops, drawn by rule: nobody's data, so that letters, signs and lists may show them to whom they like."""

from fastapi import APIRouter, Response

from almanaque.formats.crops import portraits

router = APIRouter()
FOR_GOOD = "public, max-age=31536000, immutable"


@router.get("/portraits/{key}/{name}.svg")
def portrait_file(key: str, name: str) -> Response:
    """One picture; its address changes when the drawing does."""
    found = portraits.file(key[:60], name[:60])
    if found is None:
        return Response(status_code=404)
    return Response(found, media_type="image/svg+xml", headers={"Cache-Control": FOR_GOOD})
