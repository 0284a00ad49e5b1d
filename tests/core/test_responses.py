"""Responses: tokens that cannot be guessed or misused, and people told apart from machines."""

import base64
import hmac
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.responses import (
    Fetch,
    Purpose,
    Token,
    TokenWriter,
    derive_keyring,
    is_one_click,
    machine_reason,
    read_return_address,
    read_token,
    return_address,
    sign_token,
)

KEYRING = derive_keyring(b"sixteen bytes at least")
tokens = st.builds(
    Token, purpose=st.sampled_from(Purpose), delivery_id=st.integers(0, 2**63), number=st.integers(0, 65_535)
)


@given(tokens)
def test_a_token_reads_back_for_its_purpose_only(token: Token) -> None:
    text = sign_token(token, KEYRING)
    assert len(text) == 38
    for purpose in Purpose:
        assert read_token(text, purpose, KEYRING) == (token if purpose is token.purpose else None)


@given(tokens, st.binary(min_size=16, max_size=40))
def test_a_token_is_signed_with_the_hmac_of_the_standard_library(token: Token, secret: bytes) -> None:
    ring = derive_keyring(secret)
    raw = base64.urlsafe_b64decode(sign_token(token, ring) + "==")
    assert raw[12:] == hmac.digest(ring.keys[1], raw[:12], "sha256")[:16]


@given(tokens, st.integers(0, 37), st.sampled_from("AZaz09-_"))
def test_a_token_with_any_sign_changed_is_none(token: Token, place: int, sign: str) -> None:
    text = sign_token(token, KEYRING)
    forged = text[:place] + sign + text[place + 1 :]
    # The last sign of base64 carries unused bits; texts that decode to the same bytes are the same token.
    found = read_token(forged, token.purpose, KEYRING)
    assert found is None or (found == token and forged[:37] == text[:37])


@given(st.integers(0, 2**63), st.booleans(), st.integers(0, 44), st.sampled_from("az27"))
def test_mail_that_comes_back_names_its_delivery_however_its_letters_were_folded(
    delivery: int, folded: bool, place: int, sign: str
) -> None:
    address = return_address(TokenWriter(KEYRING), delivery, "bounces.museum.example")
    assert len(address.partition("@")[0]) <= 64
    assert read_return_address(address.upper() if folded else address, KEYRING) == delivery
    at = len("return+") + place
    changed = address[:at] + sign + address[at + 1 :]
    # The last sign holds a bit of the token and four that are none.
    if changed != address and place < 44:
        assert read_return_address(changed, KEYRING) is None


@given(st.text(max_size=70) | st.from_regex(r"return\+[a-z2-7]{45}@a\.example", fullmatch=True))
def test_any_other_address_is_none_of_ours(address: str) -> None:
    assert read_return_address(address, KEYRING) is None
    token = sign_token(Token(purpose=Purpose.CLICK, delivery_id=1), KEYRING)
    raw = base64.urlsafe_b64decode(token + "==")
    click = base64.b32encode(raw).decode().rstrip("=")
    assert read_return_address(f"return+{click}@a.example", KEYRING) is None


@given(st.text(max_size=60))
def test_any_text_is_a_token_of_ours_or_none(text: str) -> None:
    assert read_token(text, Purpose.CLICK, KEYRING) is None


def test_another_secret_makes_other_tokens_and_an_old_key_goes_on_working() -> None:
    token = Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=7)
    other = derive_keyring(b"another secret of ours")
    assert read_token(sign_token(token, other), token.purpose, KEYRING) is None
    rotated = derive_keyring(b"sixteen bytes at least", (1, 2))
    assert rotated.current == 2
    assert read_token(sign_token(token, KEYRING), token.purpose, rotated) == token
    assert read_token(sign_token(token, rotated), token.purpose, KEYRING) is None
    with pytest.raises(ValueError, match="16 bytes"):
        derive_keyring(b"short")


NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)
BROWSER = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"


@pytest.mark.parametrize(
    ("method", "agent", "seconds", "reason"),
    [
        ("GET", BROWSER, 60, None),
        ("HEAD", BROWSER, 60, "head"),
        ("GET", "LinkScan/3.1 (mail gateway)", 60, "agent"),
        ("GET", "python-httpx/0.28", 60, "agent"),
        ("GET", "", 60, "agent"),
        ("GET", BROWSER, 1, "too_soon"),
        ("GET", BROWSER, None, "too_soon"),
    ],
)
def test_a_machine_is_known_by_a_named_rule(method: str, agent: str, seconds: int | None, reason: str | None) -> None:
    accepted_at = None if seconds is None else NOW - timedelta(seconds=seconds)
    assert machine_reason(Fetch(method=method, agent=agent, at=NOW, accepted_at=accepted_at)) == reason


@pytest.mark.parametrize(
    ("body", "one_click"),
    [
        (b"List-Unsubscribe=One-Click", True),
        (b"List-Unsubscribe=One-Click\r\n", True),
        (b'--x\r\nContent-Disposition: form-data; name="List-Unsubscribe"\r\n\r\nOne-Click\r\n--x--', True),
        (b"  List-Unsubscribe=One-Click\n", True),
        (b"leave=yes", False),
        (b"list-unsubscribe=one-click", False),
        (b"List-Unsubscribe=One-Click&more=1", False),
        (b"x=1&List-Unsubscribe=One-Click", False),
        (b"List-Unsubscribe=One-Clicks", False),
        (b"List-Unsubscribe", False),
        (b'--x\r\nContent-Disposition: form-data; name="List-Unsubscribe"\r\n\r\nTwo-Click\r\n--x--', False),
        (b'--x\r\nContent-Disposition: form-data; name="Other"\r\n\r\nOne-Click\r\n--x--', False),
        (b'--x\r\nContent-Disposition: form-data; name="List-Unsubscribe"\r\n\r\nnot One-Click\r\n--x--', False),
        (b'--x\r\nContent-Disposition: form-data; name="List-Unsubscribe"\r\n\r\nOne-Click, no\r\n--x--', False),
        (b"", False),
        (b"List-Unsubscribe=Two-Clicks", False),
    ],
)
def test_a_one_click_body_is_known(body: bytes, one_click: bool) -> None:
    assert is_one_click(body) is one_click
