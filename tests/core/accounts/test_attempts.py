"""How long somebody waits who mistyped, and which passwords are refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.accounts import attempts, password_rules
from almanaque.core.errors import BadInput
from almanaque.data.common_passwords import common_passwords


def test_the_wait_doubles_with_every_wrong_try_and_counts_from_the_last() -> None:
    limit = attempts.Limit(5, 120)
    assert [limit.wait_s(n, 0) for n in range(4, 14)] == [0, 1, 2, 4, 8, 16, 32, 64, 120, 120]
    assert (limit.wait_s(9, 10), limit.wait_s(9, 15.5), limit.wait_s(9, 16)) == (6, 1, 0)


def test_at_most_a_hundred_wrong_tries_fit_into_an_hour_at_one_account() -> None:
    """OWASP ASVS 4.0.3, 2.2.1."""
    for limit in (attempts.KNOWN_BROWSER, attempts.LOGIN_FROM_ADDRESS, attempts.LOGIN, attempts.OWN_ACCOUNT):
        assert limit.most_in_an_hour <= 100
    assert attempts.LOGIN_FROM_ADDRESS.most_in_an_hour < attempts.LOGIN.free, (
        "one address alone makes nobody wait who comes from another"
    )


def refusal(text: str, login: str = "wren") -> str:
    try:
        password_rules.check(text, common=common_passwords(), login=login)
    except BadInput as error:
        return error.code
    return ""


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("eleven char", "accounts.password_too_short"),
        ("aaaaaaaaaaaaaaaa", "accounts.password_too_short"),
        ("x" * 201, "accounts.password_too_short"),
        ("passwordpassword", "accounts.password_common"),
        ("iloveyou iloveyou", "accounts.password_common"),
        ("Sunflower2024!", "accounts.password_common"),
        ("qwertyuiop12", "accounts.password_common"),
        ("１２３４５６７８９０１２", "accounts.password_common"),
        ("abcdefghijklm", "accounts.password_common"),
        ("almanaque2027", "accounts.password_common"),
        ("wren-2027-ash", "accounts.password_like_login"),
        ("soup-day-twelve", ""),
        ("long enough words", ""),
        ("correct sunflower battery", ""),
    ],
)
def test_what_is_tried_first_is_refused(text: str, why: str) -> None:
    assert refusal(text) == why


def test_a_login_that_is_an_address_counts_without_its_host() -> None:
    assert refusal("wren.ash 2027", "wren.ash@school.example") == "accounts.password_like_login"
    assert refusal("school.example.org", "wren.ash@school.example") == ""


@given(st.text(min_size=0, max_size=220))
def test_every_text_is_taken_or_refused_with_a_sentence(text: str) -> None:
    assert refusal(text) in (
        "",
        "accounts.password_too_short",
        "accounts.password_common",
        "accounts.password_like_login",
    )
