"""Letting somebody in again who is locked out: by whoever runs the server, as the owner of the database."""

import secrets

import psycopg

from almanaque.host.errors import HostError
from almanaque.passwords import hash_password


def reset_password(owner_url: str, login: str) -> str:
    """Give an account a new password, end all of its sessions and its second step; return the password.

    Raises HostError for no such login.
    """
    password = secrets.token_urlsafe(12)
    with psycopg.connect(owner_url) as connection:
        row = connection.execute(
            "UPDATE account SET password_hash = %s, totp_secret = NULL, totp_step = NULL WHERE login = %s RETURNING id",
            [hash_password(password), login.strip().lower()],
        ).fetchone()
        if row is None:
            raise HostError(f"Nobody here logs in as {login}. `almanaque logins` lists who does.")
        connection.execute("DELETE FROM login_session WHERE account_id = %s", [row[0]])
        connection.execute("DELETE FROM recovery_code WHERE account_id = %s", [row[0]])
        connection.execute("DELETE FROM reset_link WHERE account_id = %s", [row[0]])
        connection.execute("DELETE FROM login_attempt WHERE starts_with(key, %s)", [f"login {login.strip().lower()}"])
    return password


def logins(owner_url: str) -> list[tuple[str, str, str, str]]:
    """Everybody who can log in: login, name, role and school."""
    with psycopg.connect(owner_url) as connection:
        return connection.execute(
            """SELECT a.login, a.name, m.role, s.name FROM account a JOIN membership m ON m.account_id = a.id
               JOIN school s ON s.id = m.school_id ORDER BY s.name, m.role, a.login"""
        ).fetchall()
