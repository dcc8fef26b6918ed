"""The pattern page: every part that pages are made of, drawn by the real templates."""

from datetime import date
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
                {
                    "ready": date(2027, 7, 6),
                    "to": date(2027, 7, 30),
                    "years": "",
                    "coming": "Summer break",
                    "starts": date(2027, 6, 17),
                    "ends": date(2027, 8, 24),
                },
                "own_rule",
                (Fix("name_carers"),),
                case="in_a_break",
            ),
            Finding(
                "frost_risk",
                "care",
                "Tomato",
                {"n": 9, "of": 37, "out": date(2027, 5, 1), "covered": "", "bears": "0 °C"},
                "weather",
                (Fix("later_or_cover"),),
            ),
            Finding(
                "no_weather",
                "note",
                "Kale",
                {},
                "own_rule",
                (Fix("add_weather", "page", "/school"),),
            ),
        ]
        notes = [sheet_parts.note(finding, number, work.today) for number, finding in enumerate(examples, start=1)]
        values = {"notes": notes, "hatches": list(FAMILIES.values())}
        return frame.page(work, "patterns", "Patterns", values, template="pattern_page.html")
