"""Words as they are compared: without case, accents and the many kinds of dashes."""

import unicodedata


def plain(text: str) -> str:
    """Small letters without accents, one kind of dash and apostrophe, single blanks.

    >>> plain("Rentrée  des élèves – 1er jour")
    'rentree des eleves - 1er jour'
    """
    folded = unicodedata.normalize("NFKD", text.casefold())
    bare = "".join(sign for sign in folded if not unicodedata.combining(sign))
    return " ".join(bare.translate(_SAME_SIGNS).split())


_SAME_SIGNS = {ord(a): b for a, b in zip("–—‒−’‘`łø", "----'''lo", strict=True)} | {ord("æ"): "ae"}
