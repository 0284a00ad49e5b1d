"""What a domain's records say of mail from it."""

import pytest

from uvarovite.core.delivery.alignment import Standing, dmarc_word, spf_word

MUSEUM = "skarnmuseum.example"


@pytest.mark.parametrize(
    ("texts", "standing", "words"),
    [
        ([], Standing.WRONG, "does not say who may send"),
        (["site-verification=abc", "v=spf10 -all"], Standing.WRONG, "does not say who may send"),
        (["v=spf1 include:relay.example -all"], Standing.WELL, "may not send for it. Does it name your relay?"),
        (["V=SPF1 ip4:192.0.2.25 ~ALL"], Standing.WELL, "suspect"),
        (["v=spf1 mx ?all"], Standing.ADVICE, "says nothing about hosts"),
        (["v=spf1 mx"], Standing.ADVICE, "says nothing about hosts"),
        (["v=spf1 redirect=_spf.relay.example"], Standing.WELL, "Another domain's record"),
        (["v=spf1 +all"], Standing.WRONG, "Every host in the world"),
        (["v=spf1 all"], Standing.WRONG, "Every host in the world"),
        (["v=spf1 -all", "v=spf1 mx -all"], Standing.WRONG, "There are several"),
    ],
)
def test_who_may_send_is_told_with_what_to_do(texts: list[str], standing: Standing, words: str) -> None:
    told = spf_word(texts, MUSEUM)
    assert (told.standing, words in told.words) == (standing, True), told


@pytest.mark.parametrize(
    ("text", "envelope", "is_signed", "standing", "words"),
    [
        ("", MUSEUM, True, Standing.ADVICE, "_dmarc.skarnmuseum.example"),
        ("v=spf1 -all", MUSEUM, True, Standing.ADVICE, "does not say what becomes"),
        ("v=DMARC1; p=none", MUSEUM, True, Standing.WELL, "its signature and its envelope; of other mail, nothing is done"),
        ("v=DMARC1; p=reject", "bounces.skarnmuseum.example", False, Standing.WELL, "by its envelope; of other mail, receivers refuse"),
        ("v=DMARC1; p=reject; aspf=s", "bounces.skarnmuseum.example", True, Standing.WELL, "by its signature; of"),
        ("v=DMARC1; p=reject; aspf=s", "bounces.skarnmuseum.example", False, Standing.WRONG, "receivers refuse it. Sign it"),
        ("v=DMARC1; p=quarantine", "notskarnmuseum.example", False, Standing.WRONG, "Nothing shows that our mail is its own"),
        ("v=DMARC1; p=none", "relay.example", False, Standing.ADVICE, "Nothing shows"),
        ("v=DMARC1; sp=none", MUSEUM, True, Standing.WRONG, "names no policy"),
        ("v=DMARC1;p=Reject;", MUSEUM, True, Standing.WELL, "receivers refuse it"),
    ],
)  # fmt: skip
def test_what_becomes_of_mail_that_is_not_its_own_is_told(
    text: str, envelope: str, is_signed: bool, standing: Standing, words: str
) -> None:
    told = dmarc_word([text], from_domain=MUSEUM, envelope_domain=envelope, is_signed=is_signed)
    assert (told.standing, words in told.words) == (standing, True), told


def test_of_two_policies_none_counts() -> None:
    two = ["v=DMARC1; p=none", "v=DMARC1; p=reject"]
    told = dmarc_word(two, from_domain=MUSEUM, envelope_domain=MUSEUM, is_signed=True)
    assert told.standing is Standing.WRONG
