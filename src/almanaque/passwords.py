"""Passwords, hashed with argon2id at the library's current defaults; two at a time, since each takes 64 MB for a while."""

from functools import cache
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

AT_ONCE = 2
_hasher = PasswordHasher()
_turn = BoundedSemaphore(AT_ONCE)


def hash_password(password: str) -> str:
    with _turn:
        return _hasher.hash(password)


def matches(password_hash: str, password: str) -> bool:
    """True when the password belongs to the hash."""
    try:
        with _turn:
            return _hasher.verify(password_hash, password)
    except (VerifyMismatchError, InvalidHashError):
        return False


@cache
def nobody() -> str:
    """A hash to check against when there is no such login, so that both answers take the same time."""
    return hash_password("nobody has this password")
