"""What is pointed out about an address: slips in usual domains, mailboxes of several people; never more than that."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.values.address_hints import AddressHint, address_hints, one_slip_apart, usual_domain_for

COUNTS = {
    "quartzmail.example": 400,
    "slatepost.example": 900,
    "quartzmial.example": 14,
    "slate.example": 30,
    "tin.example": 9,
}

SLIPS = [
    "quartzmial.example",
    "quartzmal.example",
    "quartzmaill.example",
    "wuartzmail.example",
    "quartzmail.exampl",
    "uqartzmail.example",
]


@pytest.mark.parametrize("domain", SLIPS)
def test_a_slip_in_a_usual_domain_is_pointed_out(domain: str) -> None:
    assert address_hints(f"ada@{domain}", COUNTS) == [AddressHint(code="typo", suggestion="ada@quartzmail.example")]


@pytest.mark.parametrize(
    "domain", ["quartzmail.example", "slate.example", "quartz.example", "tan.example", "mailquartz.example"]
)
def test_what_is_no_slip_stays_without_a_word(domain: str) -> None:
    assert address_hints(f"ada@{domain}", COUNTS) == []


@pytest.mark.parametrize(
    ("domain", "meant"),
    [("gmial.com", "gmail.com"), ("fmail.com", "gmail.com"), ("hotmial.com", "hotmail.com"), ("gmx.dee", "gmx.de"),
     ("mail.com", None), ("wep.pl", None), ("ymail.com", None), ("slate.example", None)],
)  # fmt: skip
def test_a_slip_in_a_common_domain_is_pointed_out_whatever_the_list_holds(domain: str, meant: str | None) -> None:
    assert usual_domain_for(domain, {}) == meant
    # Whoever has many people there knows what it is called.
    assert usual_domain_for(domain, {domain: 10}) is None


def test_a_domain_that_many_have_is_no_slip_of_another() -> None:
    assert usual_domain_for("slatepast.example", {**COUNTS, "slatepast.example": 300}) is None


@pytest.mark.parametrize(
    ("local", "role"), [("info", True), ("no-reply", True), ("info+walks", True), ("informa", False)]
)
def test_a_mailbox_of_several_people_is_told(local: str, role: bool) -> None:
    assert [hint.code for hint in address_hints(f"{local}@slate.example", COUNTS)] == (["role"] if role else [])


@given(st.text("abc.", max_size=7), st.integers(0, 6), st.sampled_from("abcx"))
def test_one_slip_is_found_in_either_direction_and_nothing_else(word: str, place: int, letter: str) -> None:
    place = min(place, len(word))
    longer = word[:place] + letter + word[place:]
    assert one_slip_apart(word, longer)
    assert one_slip_apart(longer, word)
    assert not one_slip_apart(word, word)
    assert not one_slip_apart(word, f"{longer}yz")
    if place + 1 < len(word) and word[place] != word[place + 1]:
        swapped = word[:place] + word[place + 1] + word[place] + word[place + 2 :]
        assert one_slip_apart(word, swapped)
        assert one_slip_apart(swapped, word)
