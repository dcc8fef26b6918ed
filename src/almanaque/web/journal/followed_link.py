"""The link of a page for those without an account: which school and which page it leads to, as long as it leads anywhere."""

from dataclasses import dataclass
from uuid import UUID

from fastapi import Request

from almanaque.store import errors
from almanaque.store.journal import open_gardens as store
from almanaque.web import security

ENDED = "This page has ended or was taken back. Ask the school for a new link."
NOT_INDEXED = {"X-Robots-Tag": "noindex, nofollow"}


@dataclass(frozen=True)
class FollowedLink:
    """A link that leads somewhere: its school, and which it is."""

    secret: str
    school_id: UUID
    garden_id: UUID


def follow(request: Request) -> FollowedLink:
    """The link of an address. Raises NotAllowed for one that has ended, so that nothing large is read for it."""
    parts = request.url.path.split("/")
    secret = parts[2][:100] if len(parts) > 2 else ""
    with request.app.state.database.transaction() as connection:
        where = store.find(connection, security.token_hash(secret))
    if where is None:
        raise security.NotAllowed(ENDED)
    return FollowedLink(secret, *where)


follow.right = "home"  # type: ignore[attr-defined]  # asked before anything large is parsed


def followed(request: Request) -> FollowedLink:
    try:
        return follow(request)
    except security.NotAllowed:
        raise errors.NotFound(ENDED) from None
