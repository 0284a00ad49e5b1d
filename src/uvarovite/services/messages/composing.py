"""What a run is released with, and the composer of its messages."""

from collections.abc import Collection, Mapping
from functools import partial
from typing import Any

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import Composer, Letterhead, LetterMaker, MessageContent, Snapshot
from uvarovite.core.messages.attachments import KeptFile, files_of
from uvarovite.core.messages.kept_pictures import embedded_digests
from uvarovite.core.messages.look import Look, theme_of
from uvarovite.core.messages.paper import PdfMeans, Press
from uvarovite.core.messages.theme import Theme
from uvarovite.core.responses import Keyring, Purpose, TokenWriter, leave_address
from uvarovite.services.messages.pdfs import words_shown
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.attachments import kept_files, kept_pictures
from uvarovite.store.database import Transaction
from uvarovite.store.messages import stored_words
from uvarovite.store.tables import Organisation, Run, Sender, Topic


def theme_now(organisation: Organisation) -> Theme:
    """How letters look now."""
    return theme_of(organisation.look or Look())


def maker_now(tx: Transaction, content: MessageContent, fields: FieldMap, *, press: Press | None = None) -> LetterMaker:
    """What makes letters of words as they would be released now. Without a `press` nothing attached has its bytes."""
    organisation = require_organisation(tx)
    files = _at_hand(tx, files_of(content.attachments), content.model_dump(mode="json"), whole=press is not None)
    means = PdfMeans(others=words_shown(tx, content, fields), locale=organisation.locale, press=press)
    return LetterMaker(content, fields, theme_now(organisation), files, means)


def _at_hand(
    tx: Transaction, attached: Collection[str], words: Mapping[str, Any], *, whole: bool
) -> dict[str, KeptFile]:
    """What goes along with words: files that are attached, and pictures that are not fetched."""
    return kept_files(tx, attached, whole=whole) | kept_pictures(tx, embedded_digests(words), whole=whole)


def letterhead_for(
    organisation: Organisation, topic: Topic, sender: Sender, *, public_url: str, keyring: Keyring
) -> Letterhead:
    """The letterhead as it is now."""
    return Letterhead(
        organisation=organisation.name,
        postal_address=organisation.postal_address,
        locale=organisation.locale,
        time_zone=organisation.time_zone,
        list_domain=organisation.list_domain,
        topic_key=topic.key,
        topic_name=topic.name,
        from_name=sender.name,
        from_address=sender.address,
        reply_to=sender.reply_to,
        public_url=public_url.rstrip("/"),
        key_id=keyring.current,
        signature=sender.signature,
    )


class SignedTokens:
    """Tokens (core.messages.Tokens) that are signed with one key of an installation."""

    def __init__(self, keyring: Keyring, key_id: int) -> None:
        writer = TokenWriter(keyring, key_id)
        text = writer.text
        self.click = partial(text, int(Purpose.CLICK))
        self.leave = partial(text, int(Purpose.UNSUBSCRIBE))
        self.open = partial(text, int(Purpose.OPEN))
        self.counted_click = partial(text, int(Purpose.COUNTED_CLICK))
        self.counted_open = partial(text, int(Purpose.COUNTED_OPEN))
        self.copy = partial(text, int(Purpose.COPY))
        self.unseen = partial(text, int(Purpose.UNSEEN))
        self.leave_address = partial(leave_address, writer)


def composer_of(tx: Transaction, run: Run, keyring: Keyring, *, press: Press | None = None) -> Composer:
    """The composer of a run's messages, as it was released. Without a `press` nothing attached has its bytes."""
    return composer_for(tx, run.snapshot, run.message_version_id, keyring, run_id=run.id or 0, press=press)


def composer_for(
    tx: Transaction,
    snapshot: Snapshot,
    message_version_id: int,
    keyring: Keyring,
    *,
    run_id: int = 0,
    press: Press | None = None,
) -> Composer:
    """The composer of messages with a snapshot, whether there is a run of them or not."""
    content = stored_words(tx, message_version_id)
    attached = [
        named["file"]
        for one in content.get("attachments", ())
        if one["kind"] in ("file", "own")
        for named in (one["files"] if one["kind"] == "own" else (one,))
    ]
    return Composer(
        snapshot=snapshot,
        content=content,
        files=_at_hand(tx, attached, content, whole=press is not None),
        press=press,
        run_id=run_id,
        tokens=SignedTokens(keyring, snapshot.letterhead.key_id),
    )
