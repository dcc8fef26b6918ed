"""Somebody who is locked out is let in again by whoever runs the server."""

from datetime import UTC, datetime

import psycopg
import pytest

from almanaque.demo import load
from almanaque.host import invitations, recovery
from almanaque.host.errors import HostError
from almanaque.host.postgres import Addresses
from almanaque.passwords import matches
from almanaque.store.accounts import accounts, attempts, second_step, sessions
from almanaque.store.db import Database
from almanaque.web import security
from tests.database import NORTH

NOW = datetime.now(UTC)


def test_a_new_password_ends_every_session_and_opens_a_login_that_was_tried_too_often(
    demo: Addresses, database: Database
) -> None:
    token = security.token_hash("held")
    with database.transaction() as connection:
        sessions.open_session(connection, token, load.account_id("helper"), NOW + security.SESSION_LASTS)
        attempts.note(connection, ["login helper", "login helper from 10.0.0.1"])
        second_step.set_second_step(connection, token, "A" * 32, 1, [b"code"])
    password = recovery.reset_password(demo.owner, " Helper ")
    with database.transaction() as connection:
        known = accounts.account(connection, "helper")
        assert known is not None
        assert matches(known.password_hash, password)
        assert not matches(known.password_hash, load.PASSWORD)
        assert accounts.visitor(connection, token) is None
        assert attempts.tried(connection, ["login helper", "login helper from 10.0.0.1"], minutes=15) == {}
        assert known.totp_secret == ""
        assert not second_step.use_recovery_code(connection, load.account_id("helper"), b"code")
    with pytest.raises(HostError, match="Nobody here logs in as nobody"):
        recovery.reset_password(demo.owner, "nobody")


def test_everybody_who_logs_in_is_listed_with_role_and_school(demo: Addresses) -> None:
    rows = [(login, role, school) for login, _, role, school in recovery.logins(demo.owner)]
    assert ("helper", "helper", "Brindlecombe School") in rows
    assert len({school for _, _, school in rows}) == 2


def test_a_school_that_nobody_can_enter_gets_a_coordinator_by_an_invitation(
    demo: Addresses, database: Database
) -> None:
    secret = invitations.into_a_school(demo.owner, "the new head", "brindlecombe school", now=NOW)
    with database.transaction() as connection:
        invited = accounts.invited(connection, security.token_hash(secret))
        assert invited is not None
        assert accounts.accept(connection, security.token_hash(secret), load.account_id("viewer")) == NORTH
    with psycopg.connect(demo.owner) as owner:
        role = owner.execute(
            "SELECT role FROM membership WHERE school_id = %s AND account_id = %s", [NORTH, load.account_id("viewer")]
        ).fetchone()
    assert role == ("coordinator",)
    with pytest.raises(HostError, match="Its schools: Brindlecombe School, Tallowbank School"):
        invitations.into_a_school(demo.owner, "x", "Nowhere", now=NOW)
