"""The one place where the names of the database's constraints become sentences; the words are in `words/en/constraints.toml`."""

from almanaque.core.words import Phrase, sentences

FALLBACK = "constraints.other"


def sentence_for(constraint: str | None) -> str:
    """Return the sentence for a constraint's name, or a general one for keys that have no words of their own."""
    code = f"constraints.{constraint}"
    return str(Phrase(code if code in sentences() else FALLBACK))
