"""Passwords, hashed with argon2id at the library's current defaults."""

from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

_hasher = PasswordHasher()


def hash_password(password: str) -> str:
    return _hasher.hash(password)


def matches(password_hash: str, password: str) -> bool:
    """True when the password belongs to the hash."""
    try:
        return _hasher.verify(password_hash, password)
    except (VerifyMismatchError, InvalidHashError):
        return False


@cache
def nobody() -> str:
    """A hash to check against when there is no such login, so that both answers take the same time."""
    return _hasher.hash("nobody has this password")
