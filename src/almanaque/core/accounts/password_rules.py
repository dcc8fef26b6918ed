"""Which passwords are refused: short ones, those that many people use, those that say the login name, and plain rows of keys.

**Source:** NIST SP 800-63B, 5.1.1.2: length counts, no rules on kinds of characters, a list of common ones, and words of the
context. Twelve characters: OWASP ASVS 4.0.3, 2.1.1.
"""

import unicodedata
from collections.abc import Set
from itertools import pairwise

from almanaque.core.errors import BadInput

SHORTEST, LONGEST = 12, 200  # characters: OWASP ASVS 4.0.3, 2.1.1 for the least; the most is our own rule
LEAST_DIFFERENT = 5  # different characters: our own rule
OWN_WORDS = ("almanaque", "password", "schoolgarden", "garden")
LONGEST_ENDING = 8  # characters beside a common word that do not make it another one: our own rule


def check(text: str, *, common: Set[str], login: str, field: str = "new_password") -> None:
    """Raise BadInput for a password that is too short, too long, or easy to guess for somebody who knows the login name.

    `common` holds passwords that many people use, in small letters.
    """
    if not SHORTEST <= len(text) <= LONGEST or len(set(text)) < LEAST_DIFFERENT:
        raise BadInput("accounts.password_too_short", field=field, least=SHORTEST, most=LONGEST)
    plain = unicodedata.normalize("NFKC", text).casefold()
    name = login.casefold().partition("@")[0]
    if len(name) >= 3 and name in plain and len(plain) - len(name) < SHORTEST:
        raise BadInput("accounts.password_like_login", field=field)
    if _is_common(plain, common) or _is_common(_repeated(plain), common) or _is_row(plain):
        raise BadInput("accounts.password_common", field=field)


def _is_common(plain: str, common: Set[str]) -> bool:
    """A common password, or one with digits and signs around it."""
    word = plain.strip("0123456789 .,:;!?-_+*#/&%$@()[]{}<>=~^'\"|\\`§€£")
    near = len(plain) - len(word) <= LONGEST_ENDING
    return plain in common or (near and (word in common or word in OWN_WORDS))


def _repeated(plain: str) -> str:
    """What is written several times over to make this; itself when it is written once."""
    word = plain.replace(" ", "")
    return word[: (word + word).find(word, 1)]


def _is_row(plain: str) -> bool:
    """Letters or digits that follow each other: `abcdefghijkl`, `890123456789`."""
    steps = {(ord(b) - ord(a)) % (10 if plain.isdecimal() else 1 << 21) for a, b in pairwise(plain)}
    return len(steps) == 1
