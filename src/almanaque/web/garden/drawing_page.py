"""Garden: how a page on which things are drawn answers: with the drawing as it is then, or as it is with the reason why not."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from fastapi import Response

from almanaque.commands.garden import ground_changes
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.web import frame
from almanaque.web.htmx import Htmx, vary
from almanaque.web.request_scope import RequestScope, UnitOfWork
from almanaque.web.view import View

Write = Callable[[UnitOfWork], tuple[str, str]]  # what does it: the thing that is chosen then, and a sentence


class DrawingView(Protocol):
    """Fills the part of the page with the thing that is chosen, what was said, or what was refused with what was typed."""

    def __call__(
        self,
        work: UnitOfWork,
        *,
        thing: str = "",
        said: str = "",
        error: str = "",
        field: str = "",
        typed: Mapping[str, Any] | None = None,
    ) -> View: ...


@dataclass(frozen=True)
class DrawingPage:
    """Where it lies, the template of its part, and what fills that."""

    address: str
    template: str
    view: DrawingView

    def answer(
        self,
        scope: RequestScope,
        htmx: Htmx,
        thing: str,
        write: Write,
        *,
        typed: Mapping[str, Any] | None = None,
    ) -> Response:
        """Do it and show the drawing as it is then, saying what was done; refused, nothing of what was typed is lost."""
        try:
            with scope.open() as work:
                chosen, said = write(work)
                if not htmx.part:
                    return frame.go(work, self.address, thing=chosen)
                return vary(frame.part(work, self.template, self.view(work, thing=chosen, said=said)))
        except (BadInput, errors.Stale, errors.Refused, errors.NotFound) as error:
            if not htmx.part:
                raise
            sentence = error.message if isinstance(error, BadInput) else str(error)
            field = error.field or "" if isinstance(error, BadInput) else ""
            status = 422 if isinstance(error, BadInput) else 404 if isinstance(error, errors.NotFound) else 409
            with scope.open() as work:
                shown = self.view(work, thing=thing, error=sentence, field=field, typed=typed)
                return vary(frame.part(work, self.template, shown, status=status))

    def undo(self, scope: RequestScope, htmx: Htmx, thing: str = "") -> Response:
        """Take the account's last step on the map or in a bed back."""
        return self.answer(scope, htmx, thing, lambda work: (thing, f"Taken back: {ground_changes.undo(*_by(work))}."))

    def redo(self, scope: RequestScope, htmx: Htmx, thing: str = "") -> Response:
        """Do it again."""
        return self.answer(scope, htmx, thing, lambda work: (thing, f"Done again: {ground_changes.redo(*_by(work))}."))


def _by(work: UnitOfWork) -> tuple[Any, ...]:
    return work.connection, work.context, work.actor()
