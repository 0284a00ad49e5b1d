"""Messages as PDFs: the words that are shown, the pictures in them, and the process that makes them."""

import re
from collections.abc import Iterable

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import messages_shown
from uvarovite.core.messages.checks import check_message
from uvarovite.core.messages.kept_pictures import kept_digest
from uvarovite.core.messages.paper import Press
from uvarovite.sandbox.paper import PaperFault, PaperPicture
from uvarovite.sandbox.press import the_press
from uvarovite.services.errors import BadInput
from uvarovite.store.database import Database, Transaction
from uvarovite.store.messages import latest_version
from uvarovite.store.pictures import pictures_by_digest

TOO_MUCH = (
    "A PDF of these words takes too much time or memory, or is too large. Shorten them, or take smaller pictures."
)
_SHOWN = re.compile(r'src="([^"]*)"')


def own_pictures(tx: Transaction, pages: Iterable[str]) -> dict[str, PaperPicture]:
    """The pictures of our own that pages show, by address; those of others are not fetched."""
    shown = {address for page in pages for address in _SHOWN.findall(page)}
    found = {address: digest for address in shown if (digest := kept_digest(address)) is not None}
    kept = {
        one.digest: PaperPicture(kind=one.kind, content=one.content)
        for one in pictures_by_digest(tx, set(found.values()))
    }
    return {address: kept[digest] for address, digest in found.items() if digest in kept}


def press_of(database: Database) -> Press:
    """What makes PDFs, with the pictures that are kept in a database. It raises BadInput, and is not called in a transaction."""

    def press(page: str, style: str) -> bytes:
        with database.transaction() as tx:
            pictures = own_pictures(tx, [page])
        try:
            return the_press().pdf(page, style, pictures)
        except PaperFault as fault:
            raise BadInput("too_much", TOO_MUCH) from fault

    return press


def words_shown(tx: Transaction, content: MessageContent, fields: FieldMap) -> dict[int, MessageContent]:
    """The words, as they are now, of the other messages that go along as PDFs; those with problems are left out."""
    found = {}
    for message_id in messages_shown(content.attachments):
        words = words_to_show(tx, message_id)
        if words is not None and not check_message(words, fields):
            found[message_id] = words
    return found


def words_to_show(tx: Transaction, message_id: int) -> MessageContent | None:
    """What there is to see of a message, as it is now; None where it is not there. Nothing that it attaches goes along."""
    version = latest_version(tx, message_id)
    return version.content.model_copy(update={"attachments": ()}) if version else None
