"""Sentences made of a code and its parameters."""

import pytest

from almanaque.core import words
from almanaque.core.words import Phrase


def test_places_are_filled_with_days_numbers_names_and_phrases() -> None:
    words_of = {
        "{on:day}": ("2027-04-14", "14 Apr"),
        "{on:month}": ("2027-04-14", "April"),
        "{on:month_year}": ("2027-04-14", "April 2027"),
        "{on:week|weeks}": (1, "week"),
        "{on:and}": (("chard", "kale", "peas"), "chard, kale and peas"),
        "{on:capital}": ("the bed", "The bed"),
        "{on:months}": ((4, 5), "April, May"),
        "{on:small}": ("The bed", "the bed"),
        "{on:,}": (12000, "12,000"),
        "{on}": (Phrase("units.length"), "length"),
    }
    for sentence, (value, expected) in words_of.items():
        assert words._FILLER.vformat(sentence, (), {"on": value}) == expected
    assert words._FILLER.vformat("{n:week|weeks}", (), {"n": 0}) == "weeks"


def test_what_was_stored_before_a_sentence_was_reworded_is_still_said() -> None:
    assert str(Phrase("garden.no_outline", {})) == "“…” has no outline of at least three corners."
    assert str(Phrase("findings.frost_risk.typed.message", {})) == "A freeze may fall on it around …."
    assert str(Phrase("findings.soil_poor.message", {})) == "It feeds heavily, and … … low."


def test_a_code_without_words_is_an_error_of_ours() -> None:
    with pytest.raises(KeyError):
        str(Phrase("garden.nobody_wrote_this"))


def test_words_of_every_file_are_found_by_their_path() -> None:
    assert str(Phrase("findings.part.start")) == "Start"
    assert words.sentences()["terms.cover.row cover"] == "under row cover"
    assert list(words.terms("verdict")) == ["fits", "with care", "misses"]
    assert words.places("findings.part.span") == {"first", "last"}
    assert words.listed(["a"]) == "a"
    assert words.listed([]) == ""


def test_months_stored_as_text_stay_as_they_were() -> None:
    assert words._FILLER.vformat("{on:months}", (), {"on": "April, May"}) == "April, May"
