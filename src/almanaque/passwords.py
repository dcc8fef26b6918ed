"""Passwords, hashed with argon2id at the library's current defaults."""

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

_hasher = PasswordHasher()
# Checked against when there is no such login, so that both answers take the same time.
NOBODY = _hasher.hash("nobody has this password")


def hash_password(password: str) -> str:
    return _hasher.hash(password)


def matches(password_hash: str, password: str) -> bool:
    """True when the password belongs to the hash."""
    try:
        return _hasher.verify(password_hash, password)
    except (VerifyMismatchError, InvalidHashError):
        return False
