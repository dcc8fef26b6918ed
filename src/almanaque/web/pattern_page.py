"""The pattern page: every part that pages are made of, drawn by the real templates."""

from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.core.findings import Finding, Fix
from almanaque.web import frame
from almanaque.web.garden import sheet_parts
from almanaque.web.pictures.families import FAMILIES
from almanaque.web.request_scope import RequestScope, may

router = APIRouter()


@router.get("/patterns")
def patterns(scope: Annotated[RequestScope, Depends(may("look"))]) -> Response:
    with scope.open() as work:
        examples = [
            Finding(
                "ready_no_school",
                "fault",
                "Bush bean",
                "Ready 6 Jul to 30 Jul, when nobody is at school.",
                "Summer break lasts from 17 Jun to 24 Aug.",
                "our own rule",
                (Fix("Name carers who pick"),),
            ),
            Finding(
                "frost_risk",
                "care",
                "Tomato",
                "A freeze it does not bear in 9 of 37 years.",
                "Between 1 May and 6 May a night fell below 0 °C.",
                "the weather on file",
                (Fix("Later, or under a cover"),),
            ),
            Finding(
                "no_weather",
                "note",
                "Kale",
                "Frost, cold ground and heat are not judged.",
                "There is no weather on file for this place.",
                "our own rule",
                (Fix("Add weather", "page", "/school"),),
            ),
        ]
        notes = [sheet_parts.note(finding, number, work.today) for number, finding in enumerate(examples, start=1)]
        values = {"notes": notes, "hatches": list(FAMILIES.values())}
        return frame.page(work, "patterns", "Patterns", values, template="pattern_page.html")
