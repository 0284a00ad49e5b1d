"""A run sent without a relay: claimed, marked and settled as a worker would, with the answers that a test gives."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime, timedelta

from tests.support.museum import KEYRING, NOW, SECRET, Museum
from uvarovite.core.delivery import AnswerKind
from uvarovite.core.delivery.answers import Answer, Meaning, no_answer
from uvarovite.core.delivery.outcomes import Broken, Outcome, Told, Unknowable
from uvarovite.services.delivery import sending
from uvarovite.services.delivery.kits import MarkedDelivery, RunKit, load_run_kit
from uvarovite.services.delivery.sending import ClaimedBatch, MarkedGroup, Sent
from uvarovite.store.database import Transaction, run_sql

OK = Told(Answer(kind=AnswerKind.ACCEPTED, code=250, enhanced="2.0.0", text="2.0.0 Ok", meaning=Meaning.ACCEPTED))
LATER = Told(
    Answer(kind=AnswerKind.TRY_LATER, code=451, enhanced="4.7.1", text="4.7.1 later", meaning=Meaning.GREYLISTED)
)
NOBODY = Told(
    Answer(
        kind=AnswerKind.REFUSED_ADDRESS, code=550, enhanced="5.1.1", text="5.1.1 who?", meaning=Meaning.UNKNOWN_ADDRESS
    )
)
NO_WORD = Unknowable()
BROKE = Broken(no_answer(Meaning.BROKE_BEFORE, "gone"))


@contextmanager
def put_there(tx: Transaction) -> Iterator[None]:
    """Deliveries can be put into any state in here, whatever steps there are."""
    run_sql(tx, "ALTER TABLE delivery DISABLE TRIGGER USER")
    yield
    run_sql(tx, "ALTER TABLE delivery ENABLE TRIGGER USER")


def claim(museum: Museum, token: str, now: datetime = NOW) -> ClaimedBatch | None:
    """The next batch that is due."""
    return sending.claim(museum.database, worker="w", lease_token=token, now=now)


def kit_of(museum: Museum, run_id: int) -> RunKit:
    """What a worker loads once for a run."""
    return load_run_kit(museum.database, run_id, museum.relay_id, keyring=KEYRING, secret=SECRET)


def mark(
    museum: Museum, batch: ClaimedBatch, kit: RunKit, wanted: Sequence[int] | None = None, now: datetime = NOW
) -> MarkedGroup:
    """Mark some of a batch as being sent, all of them if no others are named."""
    wanted = batch.delivery_ids if wanted is None else wanted
    return sending.advance(museum.database, batch, kit, (), wanted, now)


def settle(
    museum: Museum,
    batch: ClaimedBatch,
    kit: RunKit,
    marked: Sequence[MarkedDelivery],
    outcome: Outcome = OK,
    now: datetime = NOW,
) -> None:
    """Settle some that were marked, all with one outcome."""
    sent = [Sent(delivery=one, outcome=outcome, digest="d") for one in marked]
    sending.advance(museum.database, batch, kit, sent, (), now)


def give_back(museum: Museum, batch: ClaimedBatch, now: datetime = NOW, wait: timedelta | None = None) -> None:
    """Finish with a batch."""
    sending.give_back(museum.database, batch, wait=wait, now=now)


def send(museum: Museum, batch: ClaimedBatch, kit: RunKit, outcome: Outcome, now: datetime = NOW) -> list[int]:
    """Mark and settle a whole batch with one outcome; the ids that went out."""
    marked = mark(museum, batch, kit, now=now).marked
    settle(museum, batch, kit, marked, outcome, now)
    give_back(museum, batch, now)
    return [one.id for one in marked]


def send_all(
    museum: Museum, run_id: int, now: datetime = NOW, answer_to: Callable[[int], Outcome] = lambda _: OK
) -> None:
    """Send every batch of a run; `answer_to` gives the outcome for a batch by its number."""
    kit = kit_of(museum, run_id)
    while (batch := claim(museum, f"run {run_id}", now)) is not None:
        send(museum, batch, kit, answer_to(batch.number), now)
