"""Signatures: keys that are published before they sign, and every message of a run signed so that others believe it."""

from datetime import timedelta

import dkim
import pytest

from tests.support.museum import KEYRING, MESSAGE, NOW, SECRET, Museum
from tests.support.sending import claim, give_back, kit_of, mark, send_all, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.delivery.dkim import Algorithm
from uvarovite.services.delivery.kits import load_run_kit
from uvarovite.services.delivery.traces import sent_message
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.messages.tests import prepare_test
from uvarovite.services.organisation import signing
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.services.organisation.signing import SigningKeyView
from uvarovite.services.organisation.single_mails import on_the_wire
from uvarovite.store.database import run_sql

DOMAIN = "skarnmuseum.example"


def made(museum: Museum, algorithm: Algorithm = Algorithm.ED25519) -> SigningKeyView:
    return signing.make_key(museum.database, SYSTEM, domain=DOMAIN, algorithm=algorithm, secret=SECRET, now=NOW)


def looked_up(museum: Museum, key: SigningKeyView, *texts: str, minutes: int = 0) -> SigningKeyView:
    at = NOW + timedelta(minutes=minutes)
    return signing.note_looked_up(museum.database, SYSTEM, key.id, texts, secret=SECRET, now=at)


def signs(museum: Museum, key: SigningKeyView) -> SigningKeyView:
    looked_up(museum, key, key.record)
    return signing.sign_with(museum.database, SYSTEM, key.id, signs=True)


@pytest.mark.parametrize("algorithm", list(Algorithm))
def test_every_message_of_a_run_is_signed_and_shown_byte_for_byte(museum: Museum, algorithm: Algorithm) -> None:
    key = signs(museum, made(museum, algorithm))
    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    kit = kit_of(museum, run_id)
    assert kit.is_slow is (algorithm is Algorithm.RSA)
    for delivery in mark(museum, batch, kit).marked:
        _, raw = kit.made(delivery)
        assert raw.count(b"DKIM-Signature:") == 1

        def published(name: bytes, timeout: int = 5) -> bytes | None:
            return key.record.encode() if name.rstrip(b".").decode() == key.record_name else None

        assert dkim.verify(raw, dnsfunc=published)
        for header in (b"list-unsubscribe:", b"list-unsubscribe-post:", b"from:"):
            assert header in raw.split(b"b=")[0].lower().replace(b" ", b"")
        # A word more, and nobody believes it.
        assert not dkim.verify(raw.replace(b"walk", b"talk"), dnsfunc=published)


def test_what_was_sent_is_shown_with_its_signature_whatever_signs_since(museum: Museum) -> None:
    key = signs(museum, made(museum))
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    one, *others = mark(museum, batch, kit).marked
    _, raw = kit.made(one)
    signing.sign_with(museum.database, SYSTEM, key.id, signs=False)
    shown = sent_message(museum.database, SYSTEM, one.id, keyring=KEYRING, secret=SECRET, now=NOW)
    assert shown.source.encode() == raw
    assert b"DKIM-Signature" in raw
    # This run goes on with what it was released with; what is released from now on has none.
    assert len(kit_of(museum, run_id).signing) == 1
    settle(museum, batch, kit, (one, *others))
    give_back(museum, batch)
    send_all(museum, run_id)
    museum.change(again=Again.EVERYBODY)
    assert kit_of(museum, museum.release()).signing == ()


def test_a_key_signs_only_once_it_is_published_and_found(museum: Museum) -> None:
    key = made(museum)
    other = made(museum)
    assert key.selector != other.selector
    for texts in ((), ("v=spf1 -all",), (other.record,)):
        assert looked_up(museum, key, *texts).published_at is None
        with pytest.raises(Conflict, match="not in the DNS"):
            signing.sign_with(museum.database, SYSTEM, key.id, signs=True)
    assert looked_up(museum, key, "v=spf1 -all", key.record, minutes=1).published_at is not None
    # It was there, and is not there any more.
    looked_up(museum, key, minutes=2)
    with pytest.raises(Conflict):
        signing.sign_with(museum.database, SYSTEM, key.id, signs=True)
    looked_up(museum, key, key.record, minutes=3)
    assert signing.sign_with(museum.database, SYSTEM, key.id, signs=True).signs


def test_a_key_is_for_a_domain_that_messages_come_from(museum: Museum) -> None:
    view = signing.signing_view(museum.database, SYSTEM)
    assert (view.domains, view.keys) == ([DOMAIN], [])
    with pytest.raises(BadInput):
        signing.make_key(
            museum.database, SYSTEM, domain="elsewhere.example", algorithm=Algorithm.RSA, secret=SECRET, now=NOW
        )


def test_a_key_of_another_domain_signs_nothing(museum: Museum) -> None:
    key = signs(museum, made(museum))
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE signing_key SET domain = 'elsewhere.example' WHERE id = :id RETURNING id", {"id": key.id})
    assert kit_of(museum, museum.release()).signing == ()


def test_under_another_secret_nothing_goes_unsigned_and_it_says_why(museum: Museum) -> None:
    signs(museum, made(museum))
    run_id = museum.release()
    kit = load_run_kit(museum.database, run_id, museum.relay_id, keyring=KEYRING, secret=b"another secret")
    assert kit.relay is None
    assert kit.trouble is not None
    assert "sealed under another secret key" in kit.trouble.message


def test_the_private_half_stands_nowhere_in_clear(museum: Museum) -> None:
    made(museum, Algorithm.RSA)
    with museum.database.transaction() as tx:
        [row] = run_sql(tx, "SELECT to_jsonb(signing_key)::text AS text FROM signing_key")
    assert "PRIVATE KEY" not in row.text


def test_a_test_to_a_colleague_is_signed_as_the_message_would_be(museum: Museum) -> None:
    key = signs(museum, made(museum))
    mail = prepare_test(
        museum.database, SYSTEM, content=MESSAGE, contact_id=museum.contact_id("M-01"), to_address="kim@slatepost.example",
        topic_id=museum.topic_id, sender_id=None, pool_id=None, keyring=KEYRING, test_id="1", now=NOW,
    )  # fmt: skip
    _, raw = on_the_wire(museum.database, mail, secret=SECRET, now=NOW)
    assert raw.endswith(mail.raw)
    assert dkim.verify(raw, dnsfunc=lambda name, timeout=5: key.record.encode())
    with pytest.raises(SecretLost, match="sealed under another secret key"):
        on_the_wire(museum.database, mail, secret=b"another secret, as long", now=NOW)
