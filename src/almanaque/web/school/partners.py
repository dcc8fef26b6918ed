"""School: partners and helpers, what they can give, when they were last asked."""

from typing import Annotated, Literal, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.store.school import partners as store
from almanaque.store.school.partners import PARTNER_KINDS, Partner, PartnerKind
from almanaque.web import forms, frame, seen, words
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
            "seen": seen.fingerprint(shown) if shown else "",
            "new_id": str(uuid4()),
            "kinds": PARTNER_KINDS,
            "asked_on": (shown.asked_on.isoformat() if shown and shown.asked_on else ""),
        }
        return frame.page(work, "school", "Partners", values, template="school/partners.html")


class PartnerForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    kind: str = "hands"
    gives: str = ""
    contact: str = ""
    asked_on: str = ""
    answer: str = ""
    seen: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/school/partners")
def save(scope: Plan, form: Annotated[PartnerForm, Form()]) -> Response:
    """Add, change or delete a partner."""
    with scope.open() as work:
        partner_id = forms.row_id(form.id)
        store.hold(work.connection)
        known = next((p for p in store.partners(work.connection) if p.id == partner_id), None)
        if known is not None:
            seen.still(form.seen, lambda: seen.fingerprint(known), f"“{known.name}”")
        if form.action == "delete":
            store.delete(work.connection, partner_id)
            return frame.go(work, "/school/partners")
        partner = Partner(
            partner_id,
            forms.name(form.name, most=120),
            cast(PartnerKind, forms.one_of(form.kind, PARTNER_KINDS, field="kind")),
            form.gives.strip(),
            form.contact.strip(),
            forms.optional_day(form.asked_on, field="asked_on"),
            form.answer.strip(),
        )
        store.save(work.connection, work.context.school.id, partner)
        return frame.go(work, "/school/partners")
