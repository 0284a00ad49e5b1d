"""What a run is released with, and the composer of its messages."""

from uvarovite.core.messages import Composer, Letterhead
from uvarovite.core.responses import Keyring, Purpose, Token, sign_token
from uvarovite.store.database import Transaction
from uvarovite.store.messages import stored_words
from uvarovite.store.tables import Organisation, Run, Sender, Topic


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
    )


class SignedTokens:
    """Tokens (core.messages.Tokens) that are signed with one key of an installation."""

    def __init__(self, keyring: Keyring, key_id: int) -> None:
        self._keyring = keyring
        self._key_id = key_id

    def _sign(self, purpose: Purpose, delivery_id: int, number: int = 0) -> str:
        return sign_token(Token(purpose=purpose, delivery_id=delivery_id, number=number), self._keyring, self._key_id)

    def click(self, delivery_id: int, number: int) -> str:
        """That of link `number`."""
        return self._sign(Purpose.CLICK, delivery_id, number)

    def leave(self, delivery_id: int) -> str:
        """That of the way to leave."""
        return self._sign(Purpose.UNSUBSCRIBE, delivery_id)

    def open(self, delivery_id: int) -> str:
        """That of the pixel."""
        return self._sign(Purpose.OPEN, delivery_id)


def composer_of(tx: Transaction, run: Run, keyring: Keyring) -> Composer:
    """The composer of a run's messages, as it was released."""
    snapshot = run.snapshot
    return Composer(
        snapshot=snapshot,
        content=stored_words(tx, run.message_version_id),
        run_id=run.id or 0,
        tokens=SignedTokens(keyring, snapshot.letterhead.key_id),
    )
