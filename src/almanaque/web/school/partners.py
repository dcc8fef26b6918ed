"""School: partners and helpers, what they can give, when they were last asked."""

from typing import Annotated, Literal, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.store.school import partners as store
from almanaque.store.school.partners import PARTNER_KINDS, Partner, PartnerKind
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, may

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@router.get("/school/partners")
def partners(scope: Look, open: str = "") -> Response:
    with scope.open() as work:
        found = store.partners(work.connection)
        shown = next((p for p in found if str(p.id) == open), None)
        values = {
            "partners": [
                {
                    "id": str(p.id),
                    "name": p.name,
                    "kind": p.kind,
                    "gives": p.gives,
                    "contact": p.contact,
                    "answer": p.answer,
                    "asked": f"last asked {words.long_day(p.asked_on)}" if p.asked_on else "not asked yet",
                }
                for p in found
            ],
            "shown": shown,
            "new_id": str(uuid4()),
            "kinds": PARTNER_KINDS,
            "asked_on": (shown.asked_on.isoformat() if shown and shown.asked_on else ""),
        }
        return frame.page(work, "school", "Partners", values, template="school/partners.html")


@router.post("/school/partners")
def save(
    scope: Plan,
    id: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "hands",
    gives: Annotated[str, Form()] = "",
    contact: Annotated[str, Form()] = "",
    asked_on: Annotated[str, Form()] = "",
    answer: Annotated[str, Form()] = "",
    action: Annotated[Literal["save", "delete"], Form()] = "save",
) -> Response:
    """Add, change or delete a partner."""
    with scope.open() as work:
        partner_id = forms.row_id(id)
        if action == "delete":
            store.delete(work.connection, partner_id)
            return frame.go(work, "/school/partners")
        partner = Partner(
            partner_id,
            forms.name(name, most=120),
            cast(PartnerKind, forms.one_of(kind, PARTNER_KINDS, field="kind")),
            gives.strip(),
            contact.strip(),
            forms.optional_day(asked_on, field="asked_on"),
            answer.strip(),
        )
        store.save(work.connection, work.context.school.id, partner)
        return frame.go(work, "/school/partners")
