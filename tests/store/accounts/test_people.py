"""Invitations, passes, roles and erasure: what the database's own functions allow."""

from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid4

import psycopg
import pytest

from almanaque.demo.load import account_id
from almanaque.host import invitations as host_invitations
from almanaque.host.errors import HostError
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.accounts import accounts, garden_passes, sessions
from almanaque.store.accounts.accounts import NewSchool
from almanaque.store.db import Database
from almanaque.store.journal import journal_entries
from almanaque.store.school import calendar_feeds
from tests.database import NORTH, SOUTH

NOW = datetime.now(UTC)
LATER, EARLIER = NOW + timedelta(days=3), NOW - timedelta(minutes=1)
COORDINATOR, EDUCATOR, HELPER = (account_id(name) for name in ("coordinator", "educator", "helper"))


def invite(database: Database, secret: bytes, role: str = "helper", *, expires: datetime = LATER) -> UUID:
    invitation = uuid4()
    with database.school(NORTH) as connection:
        accounts.invite(
            connection, invitation, token_hash=secret, role=role, label="Someone", by=COORDINATOR, expires_at=expires
        )
    return invitation


def newcomer(database: Database, login: str = "newcomer") -> UUID:
    made = uuid4()
    with database.transaction() as connection:
        accounts.make_account(connection, made, login=login, name="New Comer", password_hash="x")
    return made


def roles(database: Database, school: UUID = NORTH) -> dict[str, str]:
    with database.school(school) as connection:
        return {p.login: p.role for p in accounts.people(connection)}


def test_an_invitation_works_once(database: Database) -> None:
    invite(database, b"one", "carer")
    made = newcomer(database)
    with database.transaction() as connection:
        assert accounts.invited(connection, b"one") == accounts.Invited("Brindlecombe School", "carer", "Someone")
        assert accounts.accept(connection, b"one", made) == NORTH
        assert accounts.accept(connection, b"one", made) is None
        assert accounts.invited(connection, b"one") is None
    assert roles(database)["newcomer"] == "carer"


def test_an_invitation_that_is_over_taken_back_or_another_schools_does_nothing(database: Database) -> None:
    made = newcomer(database)
    invite(database, b"over", expires=EARLIER)
    taken = invite(database, b"back")
    with database.school(SOUTH) as connection:
        assert not accounts.revoke_invitation(connection, taken)  # not theirs to take back
        assert accounts.invitations(connection) == []
    with database.school(NORTH) as connection:
        assert [i.label for i in accounts.invitations(connection)] == ["Someone"]
        assert accounts.revoke_invitation(connection, taken)
    with database.transaction() as connection:
        for secret in (b"over", b"back", b"never"):
            assert accounts.invited(connection, secret) is None
            assert accounts.accept(connection, secret, made) is None


def test_who_is_invited_again_keeps_the_higher_role(database: Database) -> None:
    invite(database, b"low", "viewer")
    invite(database, b"high", "coordinator")
    with database.transaction() as connection:
        accounts.accept(connection, b"low", EDUCATOR)
    assert roles(database)["educator"] == "educator"
    with database.transaction() as connection:
        accounts.accept(connection, b"high", EDUCATOR)
    assert roles(database)["educator"] == "coordinator"


def test_a_school_keeps_a_coordinator(database: Database) -> None:
    with database.school(NORTH) as connection:
        assert not accounts.set_role(connection, COORDINATOR, "viewer")
        assert not accounts.set_role(connection, COORDINATOR, None)
        assert accounts.erase_here(connection, COORDINATOR) == "last"
        assert accounts.set_role(connection, HELPER, "coordinator")
        assert accounts.set_role(connection, COORDINATOR, None)
    assert roles(database) == {"educator": "educator", "helper": "coordinator", "viewer": "viewer"}
    with database.transaction() as connection:
        assert not accounts.erase(connection, HELPER)


def test_erasing_takes_the_name_and_leaves_what_was_written(database: Database, demo: Addresses) -> None:
    with database.transaction() as connection:
        sessions.open_session(connection, b"s", HELPER, LATER)
    with database.school(NORTH) as connection:
        note = uuid4()
        journal_entries.save(
            connection,
            NORTH,
            entry_id=note,
            bed_id=None,
            noted_on=NOW.date(),
            body="Seen",
            come_back_on=None,
            by=HELPER,
        )
        assert accounts.erase_here(connection, EDUCATOR) == "elsewhere"  # belongs to the southern school too
        assert accounts.erase_here(connection, HELPER) == "erased"
        assert connection.execute("SELECT noted_by FROM journal_entry WHERE id = %s", [note]).fetchone() == (HELPER,)
    with database.transaction() as connection:
        assert accounts.visitor(connection, b"s") is None
        assert accounts.account(connection, "helper") is None
    with psycopg.connect(demo.owner) as owner:
        name, login, hashed = (
            owner.execute("SELECT name, login, password_hash FROM account WHERE id = %s", [HELPER]).fetchone() or ()
        )
    assert "Runa" not in name
    assert login.startswith("erased-")
    assert hashed == "!"


def test_founding_a_school_wants_a_right_to_it(database: Database, demo: Addresses) -> None:
    made = newcomer(database)

    def found(by: UUID, *, invitation: bytes | None = None, open_to_all: bool = False) -> bool:
        school = NewSchool(uuid4(), "Third School", "Europe/Oslo", 60, 10, "metric", "Oslo")
        with database.transaction() as connection:
            return accounts.found_school(connection, by, school, invitation_hash=invitation, open_to_all=open_to_all)

    assert not found(made)
    assert not found(HELPER)
    assert not found(made, invitation=b"nothing")
    assert found(COORDINATOR)
    assert found(made, open_to_all=True)
    import hashlib

    secret = host_invitations.to_found_a_school(demo.owner, "The first school", now=NOW)
    hashed = hashlib.sha256(secret.encode()).digest()
    other = newcomer(database, "other")
    with database.transaction() as connection:
        assert accounts.accept(connection, hashed, other) is None  # it lets found, not join
    assert found(other, invitation=hashed)
    assert not found(HELPER, invitation=hashed)
    with pytest.raises(HostError, match="whom the invitation is for"):
        host_invitations.to_found_a_school(demo.owner, " ", now=NOW)


def test_a_pass_opens_from_its_day_until_it_ends_or_is_taken_back(database: Database) -> None:
    good, over, later = uuid4(), uuid4(), uuid4()
    with database.school(NORTH) as connection:
        for pass_id, secret, opens, expires in (
            (good, b"good", EARLIER, LATER),
            (over, b"over", EARLIER - timedelta(days=1), EARLIER),
            (later, b"later", LATER - timedelta(minutes=1), LATER),
        ):
            garden_passes.save(
                connection,
                NORTH,
                pass_id,
                label="Carer",
                group_id=None,
                token_hash=secret,
                opens_at=opens,
                expires_at=expires,
                by=COORDINATOR,
            )
    with database.transaction() as connection:
        assert garden_passes.opens_at(connection, b"good") == EARLIER
        assert garden_passes.opens_at(connection, b"over") is None
        assert garden_passes.opens_at(connection, b"later") == LATER - timedelta(minutes=1)
        assert [garden_passes.visitor(connection, secret) for secret in (b"over", b"later", b"unknown")] == [None] * 3
    with database.school(NORTH) as connection:
        assert [p.used_at for p in garden_passes.passes(connection)] == [None, None], "looking at a link writes nothing"
    with database.transaction() as connection:
        visitor = garden_passes.visitor(connection, b"good")
        assert visitor is not None
        assert (visitor.role, visitor.account_id, visitor.pass_id, visitor.school_id) == ("pass", None, good, NORTH)
        assert accounts.visitor(connection, b"good") is None, "a pass is no login"
        assert accounts.schools(connection, b"good") == []
        assert not accounts.choose_school(connection, b"good", SOUTH)
    with database.school(SOUTH) as connection, pytest.raises(errors.NotFound):
        garden_passes.revoke(connection, good)
    with database.school(NORTH) as connection:
        assert [p.used_at is not None for p in garden_passes.passes(connection) if p.id == good] == [True]
        garden_passes.revoke(connection, good)
    with database.transaction() as connection:
        assert garden_passes.visitor(connection, b"good") is None
        assert garden_passes.opens_at(connection, b"good") is None


def test_a_private_address_shows_one_school_until_it_is_taken_back(database: Database) -> None:
    feed = uuid4()
    with database.school(NORTH) as connection:
        calendar_feeds.save(connection, NORTH, feed, label="Kitchen", what="plan", token_hash=b"f", by=COORDINATOR)
    with database.transaction() as connection:
        assert calendar_feeds.school_of(connection, b"f") == calendar_feeds.FeedSchool(NORTH, "plan")
        assert calendar_feeds.school_of(connection, b"g") is None
    with database.school(NORTH) as connection:
        assert [f.read_at is not None for f in calendar_feeds.feeds(connection)] == [True]
        calendar_feeds.revoke(connection, feed)
    with database.transaction() as connection:
        assert calendar_feeds.school_of(connection, b"f") is None


def test_a_new_password_ends_every_other_login(database: Database) -> None:
    with database.transaction() as connection:
        for token in (b"here", b"elsewhere"):
            sessions.open_session(connection, token, EDUCATOR, LATER)
        accounts.change_account(connection, b"here", name="Ivo T.", password_hash="new")
        assert accounts.visitor(connection, b"elsewhere") is None
        own = accounts.own_account(connection, b"here")
    assert own is not None
    assert (own.name, own.password_hash) == ("Ivo T.", "new")
