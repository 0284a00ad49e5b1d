"""Addresses: what is usable, what is not and why, and which are the same."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.values import Address, AddressFault, fold, read_address

USABLE = [
    ("ada@slatepost.example", "ada@slatepost.example"),
    ("  Ada.Gray@SlatePost.Example ", "ada.gray@slatepost.example"),
    ("o'ruairc+walks@quartzmail.example", "o'ruairc+walks@quartzmail.example"),
    ("ada@bücher.example", "ada@xn--bcher-kva.example"),
    ("Ünal@slatepost.example", "ünal@slatepost.example"),
    ("a@b.c.d.example", "a@b.c.d.example"),
]

UNUSABLE = [
    ("ada", "malformed"),
    ("ada at slatepost.example", "malformed"),
    ("@slatepost.example", "malformed"),
    ("ada@", "malformed"),
    ("ada..gray@slatepost.example", "malformed"),
    ("ada@-slate.example", "malformed"),
    (f"{'a' * 65}@slatepost.example", "malformed"),
    (f"{'ä' * 65}@slatepost.example", "malformed"),
    ("ada@slatepost", "no_domain"),
    ("ada@slatepost.example; gus@slatepost.example", "several"),
    ("ada@slatepost.example, gus@slatepost.example", "several"),
    ("ada@slatepost.example\r\nBcc: gus@slatepost.example", "several"),
    (f"{'a' * 60}@{'b' * 60}.{'c' * 60}.{'d' * 60}.{'e' * 30}.example", "too_long"),
]


@pytest.mark.parametrize(("text", "folded"), USABLE)
def test_a_usable_address_is_kept_and_folded(text: str, folded: str) -> None:
    found = read_address(text)
    assert isinstance(found, Address)
    assert found.folded == folded
    assert found.domain == folded.partition("@")[2]


@pytest.mark.parametrize(("text", "code"), UNUSABLE)
def test_an_unusable_address_says_why(text: str, code: str) -> None:
    found = read_address(text)
    assert isinstance(found, AddressFault)
    assert found.code == code
    assert found.message


@given(st.text(max_size=80))
def test_any_text_is_an_address_or_a_fault_and_never_both(text: str) -> None:
    found = read_address(text)
    if isinstance(found, Address):
        assert not any(sign in found.text for sign in "\r\n\0")
        again = read_address(found.text)
        assert isinstance(again, Address)
        assert again.folded == found.folded


@given(st.text(max_size=30))
def test_folding_twice_is_folding_once_and_ignores_case_and_composition(text: str) -> None:
    import unicodedata

    assert fold(fold(text)) == fold(text)
    assert fold(unicodedata.normalize("NFD", text)) == fold(unicodedata.normalize("NFC", text))
    assert fold("STRASSE") == fold("straße")
    assert fold("ΟΔΟΣ") == fold("οδος")
