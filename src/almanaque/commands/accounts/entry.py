"""Coming in by a password, a code or a link: counted first, then checked, then let in.

A password takes a tenth of a second to check, so it is checked between two transactions and never within one.
"""

import hashlib
import hmac
import re
import secrets
from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import pyotp
from psycopg import Connection

from almanaque.core.accounts import attempts as rules
from almanaque.core.accounts import password_rules
from almanaque.core.accounts.attempts import Limit
from almanaque.core.errors import BadInput
from almanaque.data.common_passwords import common_passwords
from almanaque.passwords import hash_password, matches, nobody
from almanaque.store.accounts import accounts, attempts, audit, entered_once, resets, second_step
from almanaque.store.accounts.accounts import Account, OwnAccount
from almanaque.store.accounts.entered_once import Entered

Transaction = Callable[[], AbstractContextManager[Connection[Any]]]

STEP_S = 30  # a code's life: RFC 6238, 5.2
CODES, CODE_LETTERS = 10, "abcdefghjkmnpqrstuvwxyz23456789"  # without those that look alike
RESET_DAYS = 3
RESET_BY_MAIL_HOURS = 1


class TooSoon(BadInput):
    """Wait before the next try; `seconds` says how long."""

    def __init__(self, seconds: int) -> None:
        super().__init__("accounts.wait", seconds=seconds)
        self.seconds = seconds


@dataclass(frozen=True)
class Browser:
    """Where somebody comes from: the address, and the mark of a browser that logged in to this account before, if any."""

    address: str
    known_as: str = ""

    def limits(self, login: str) -> dict[str, Limit]:
        """By which keys a try at this login name is counted."""
        if self.known_as:
            return {f"browser {self.known_as}": rules.KNOWN_BROWSER}
        return {
            f"login {login}": rules.LOGIN,
            f"login {login} from {self.address}": rules.LOGIN_FROM_ADDRESS,
            f"address {self.address}": rules.ADDRESS,
        }


def plain_login(text: str) -> str:
    """A login name as it is kept and counted."""
    return text.strip().lower()[:120]


def try_once(transaction: Transaction, limits: Mapping[str, Limit]) -> None:
    """Count a try before it is looked at. Raises TooSoon, and counts nothing, while one of the keys has to wait."""
    with transaction() as connection:
        tried = attempts.tried(connection, list(limits), minutes=rules.WINDOW_MINUTES)
        wait = max(
            (limits[key].wait_s(one.failures, one.since_s) for key, one in tried.items()),
            default=0,
        )
        if not wait:
            attempts.note(connection, list(limits))
    if wait:
        raise TooSoon(wait)


def right(connection: Connection[Any], limits: Mapping[str, Limit]) -> None:
    """The try that was counted last was right. An address begins not anew: others may try from there as well."""
    shared = [key for key in limits if key.startswith("address ")]
    attempts.was_right(connection, [key for key in limits if key not in shared], shared)


def by_password(transaction: Transaction, login: str, password: str, browser: Browser) -> Account:
    """The account of somebody who gives login name and password. Raises TooSoon, and BadInput when they do not belong together."""
    login = plain_login(login)
    limits = browser.limits(login)
    try_once(transaction, limits)
    with transaction() as connection:
        account = accounts.account(connection, login)
    good = matches(account.password_hash if account else nobody(), password[: password_rules.LONGEST])
    if account is None or not good:
        raise BadInput("accounts.login_wrong", field="login")
    with transaction() as connection:
        right(connection, limits)
    return account


def by_code(transaction: Transaction, account: Account, text: str, *, now: datetime) -> None:
    """Check the second step of an account: the code that its phone shows, or a recovery code. Raises TooSoon and BadInput."""
    limits = {f"code {account.account_id}": rules.OWN_ACCOUNT}
    try_once(transaction, limits)
    given = "".join(letter for letter in text.lower() if letter.isalnum())
    with transaction() as connection:
        step = step_of(account.totp_secret, given, now=now)
        if step is not None and second_step.use_step(connection, account.account_id, step):
            right(connection, limits)
        elif second_step.use_recovery_code(connection, account.account_id, code_hash(given)):
            right(connection, limits)
            audit.note_everywhere(connection, account.account_id, "recovery code used")
        else:
            raise BadInput("accounts.code_wrong", field="code")


def confirm(transaction: Transaction, own: OwnAccount, password: str, *, field: str = "password") -> None:
    """Somebody who is logged in gives the password again, for what a lent phone must not do. Raises TooSoon and BadInput."""
    limits = {f"own {own.account_id}": rules.OWN_ACCOUNT}
    try_once(transaction, limits)
    if not matches(own.password_hash, password[: password_rules.LONGEST]):
        raise BadInput("accounts.own_password_wrong", field=field)
    with transaction() as connection:
        right(connection, limits)


def step_of(secret: str, code: str, *, now: datetime) -> int | None:
    """The step of time whose code this is: the present one or a neighbour, for clocks that differ. **Source:** RFC 6238."""
    made = pyotp.TOTP(secret, interval=STEP_S)
    present = int(now.timestamp()) // STEP_S
    return next(
        (
            step
            for step in (present, present - 1, present + 1)
            if secrets.compare_digest(made.generate_otp(step).encode(), code.encode())
        ),
        None,
    )


def code_hash(code: str) -> bytes:
    """What is kept of a recovery code; it has 50 bits, so a plain hash is enough."""
    return hashlib.sha256(f"recovery {code}".encode()).digest()


def recovery_codes(secret: str, key: str) -> list[str]:
    """The recovery codes that go with a second step's secret, known to whoever has the server's `key` as well: always the same
    ones, so that a form that is sent twice shows those that hold. Ten letters each, of 50 bits."""
    codes = []
    for number in range(CODES):
        drawn = int.from_bytes(hmac.digest(key.encode(), f"recovery {secret} {number}".encode(), "sha256"), "big")
        letters = []
        for _ in range(10):
            drawn, at = divmod(drawn, len(CODE_LETTERS))
            letters.append(CODE_LETTERS[at])
        codes.append("".join(letters))
    return codes


def new_password(text: str, *, login: str, field: str = "new_password") -> str:
    """The hash of a password that somebody chose. Raises BadInput for one that is refused."""
    check_password(text, login=login, field=field)
    return hash_password(text)


def check_password(text: str, *, login: str, field: str = "new_password") -> None:
    """Raise BadInput for a password that is refused."""
    password_rules.check(text, common=common_passwords(), login=login, field=field)


def begin_second_step(
    transaction: Transaction,
    own: OwnAccount,
    token_hash: bytes,
    secret: str,
    code: str,
    codes: list[str],
    *,
    now: datetime,
) -> None:
    """Ask for codes from now on, since the phone showed the right one, or for one of these `codes`. Sent once more, with the secret
    that holds by now, it changes nothing, however old the code has become. Raises TooSoon and BadInput."""
    if own.totp_secret and secrets.compare_digest(own.totp_secret.encode(), secret.encode()):
        return
    limits = {f"code {own.account_id}": rules.OWN_ACCOUNT}
    try_once(transaction, limits)
    step = step_of(secret, "".join(code.split()), now=now) if re.fullmatch(r"[A-Z2-7]{32}", secret) else None
    if step is None:
        raise BadInput("accounts.code_wrong", field="code")
    with transaction() as connection:
        right(connection, limits)
        second_step.set_second_step(connection, token_hash, secret, step, [code_hash(one) for one in codes])
        audit.note_everywhere(connection, own.account_id, "second step on")


def end_second_step(connection: Connection[Any], own: OwnAccount, token_hash: bytes) -> None:
    """Ask for no codes any more."""
    second_step.set_second_step(connection, token_hash, None, None, [])
    audit.note_everywhere(connection, own.account_id, "second step off")


def make_reset(
    connection: Connection[Any],
    school_id: UUID,
    account_id: UUID,
    token_hash: bytes,
    *,
    by: UUID | None,
    now: datetime,
) -> None:
    """A link to a new password, by a coordinator for one of the school's people. Raises BadInput for who belongs elsewhere too."""
    if not resets.make(connection, account_id, token_hash, now + timedelta(days=RESET_DAYS)):
        raise BadInput("accounts.reset_elsewhere")
    audit.note(connection, school_id, by, "recovery link made", subject=account_id)


def use_reset(transaction: Transaction, token_hash: bytes, password: str, number: UUID | None) -> Entered:
    """A new password by a link; every login and the second step end. The form's `number` lets whoever sends it twice in twice.

    Raises BadInput for a password that is refused and for a link that is over.
    """
    with transaction() as connection:
        if before := entered_once.begin(connection, number):
            return before
        found = resets.reset(connection, token_hash)
    if found is None:
        raise BadInput("accounts.reset_over")
    hashed = new_password(password, login=found.login)
    with transaction() as connection:
        if before := entered_once.begin(connection, number):
            return before
        account_id = resets.use(connection, token_hash, hashed)
        if account_id is None:
            raise BadInput("accounts.reset_over")
        audit.note_everywhere(connection, account_id, "recovery link used")
        # Whoever kept the owner out by trying has no hold on them any more.
        attempts.was_right(connection, [f"login {found.login}", f"code {account_id}", f"own {account_id}"], [])
        entered_once.note(connection, number, account_id, None)
    return Entered(account_id, found.login, None)
