"""Tests of a message: one contact's, sent to somebody else; and what was tested, by whom."""

import hashlib
import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import MessageContent
from uvarovite.core.responses import Keyring
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs, require, user_of
from uvarovite.services.addresses import require_address
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.messages.one_letter import LetterAsk, one_letter
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.store import messages as store
from uvarovite.store.accounts.users import user_by_email
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Message, TestMail

TESTS_SHOWN = 5


@needs(Permission.WRITE)
def prepare_test(
    database: Database,
    actor: Actor,
    *,
    content: MessageContent,
    contact_id: int,
    to_address: str,
    topic_id: int | None,
    sender_id: int | None,
    pool_id: int | None,
    keyring: Keyring,
    test_id: str,
    now: datetime,
    marked: bool = False,
) -> PreparedMail:
    """The message as one contact would get it, addressed to somebody else. Raises BadInput, NotFound.

    A test to somebody without an account takes a permission of its own: it shows a contact's data (NotAllowed). Its links are untracked and its way to leave leads nowhere, so that a test changes nothing for the person shown.
    """
    address = require_address(to_address)
    with database.transaction() as tx:
        colleague = user_by_email(tx, address)
        if colleague is None or colleague.left_at is not None:
            require(actor, Permission.HAND_OUT)
        ask = LetterAsk(
            content=_marked(content) if marked else content,
            contact_id=contact_id,
            topic_id=topic_id,
            sender_id=sender_id,
        )
        letter = one_letter(tx, ask, keyring=keyring, now=now, press=press_of(database))
        relay = relay_for_one(tx, pool_id, now)
        if relay is None:
            raise ServiceRefusal("no_relay", "There is no relay to send through yet; add one in Set-up.")
    return PreparedMail(
        relay=relay,
        from_address=letter.letterhead.from_address,
        to_address=wire_form(address),
        raw=letter.raw(message_id=f"test.{test_id}", to_address=address),
        failed="The test was not sent.",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SentTest:
    """A test that a relay took: whose message it showed, and whether the words are `same` as those that are saved now."""

    to: str
    by: str
    shown: str
    at: datetime
    same: bool


def _marked(content: MessageContent) -> MessageContent:
    """The words with a mark in every subject, so that nobody takes a test for the message."""
    others = tuple(other.model_copy(update={"subject": f"[Test] {other.subject}"}) for other in content.others)
    return content.model_copy(update={"subject": f"[Test] {content.subject}", "others": others})


def _digest(content: MessageContent) -> str:
    # Ids are for editors: they are in no message.
    return hashlib.sha256(json.dumps(_without_ids(content.model_dump(mode="json"))).encode()).hexdigest()


def _without_ids(told: Any) -> Any:
    match told:
        case dict():
            return {key: _without_ids(value) for key, value in told.items() if key != "id"}
        case list() | tuple():
            return [_without_ids(one) for one in told]
        case _:
            return told


@needs(Permission.WRITE)
def note_test(
    database: Database,
    actor: Actor,
    *,
    message_id: int | None,
    content: MessageContent,
    contact_id: int,
    to_address: str,
    accepted: bool,
    now: datetime,
) -> None:
    """Note that a test was sent, and whether the relay took it."""
    with database.transaction() as tx:
        # The message may be gone since it was sent; that it was sent stays true.
        known = message_id is not None and tx.get(Message, message_id) is not None
        audit(tx, actor, Action.TEST_SENT, message_id if known else None, to=to_address)
        tx.add(
            TestMail(
                message_id=message_id if known else None,
                digest=_digest(content),
                contact_id=contact_id,
                to_address=to_address,
                user_id=user_of(actor),
                at=now,
                accepted=accepted,
            )
        )


def tests_of(tx: Transaction, message: Message, content: MessageContent) -> list[SentTest]:
    """The latest tests of a message, whose saved words are `content`; the same words before they were saved count."""
    saved = _digest(content)
    return [
        SentTest(to=row.to_address, by=row.name, shown=row.shown, at=row.at, same=row.digest == saved)
        for row in store.tests_of(tx, message.id or 0, saved, TESTS_SHOWN)
    ]
