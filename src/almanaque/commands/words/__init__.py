"""The words of this floor's codes, a file a package; `core.words` says how they are read."""

from almanaque.core import words

words.add(__name__)
