"""A run sent without a relay: claimed, marked and settled as a worker would, with the answers that a test gives."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime

from tests.support.museum import KEYRING, NOW, SECRET, Museum
from uvarovite.core.delivery import AnswerKind
from uvarovite.core.delivery.answers import Answer, Meaning
from uvarovite.services.delivery import dispatch
from uvarovite.services.delivery.dispatch import ClaimedBatch, RunKit, Told
from uvarovite.store.database import Transaction, run_sql

OK = Answer(kind=AnswerKind.ACCEPTED, code=250, enhanced="2.0.0", text="2.0.0 Ok", meaning=Meaning.ACCEPTED)
LATER = Answer(kind=AnswerKind.TRY_LATER, code=451, enhanced="4.7.1", text="4.7.1 later", meaning=Meaning.GREYLISTED)
NOBODY = Answer(
    kind=AnswerKind.REFUSED_ADDRESS, code=550, enhanced="5.1.1", text="5.1.1 who?", meaning=Meaning.UNKNOWN_ADDRESS
)


@contextmanager
def put_there(tx: Transaction) -> Iterator[None]:
    """Deliveries can be put into any state in here, whatever steps there are."""
    run_sql(tx, "ALTER TABLE delivery DISABLE TRIGGER USER")
    yield
    run_sql(tx, "ALTER TABLE delivery ENABLE TRIGGER USER")


def claim(museum: Museum, token: str, now: datetime = NOW) -> ClaimedBatch | None:
    """The next batch that is due."""
    return dispatch.claim(museum.database, worker="w", lease_token=token, now=now)


def kit_of(museum: Museum, run_id: int) -> RunKit:
    """What a worker loads once for a run."""
    return dispatch.load_run_kit(museum.database, run_id, keyring=KEYRING, secret=SECRET)


def send(museum: Museum, batch: ClaimedBatch, kit: RunKit, answer: Answer | None, now: datetime = NOW) -> list[int]:
    """Mark and settle a whole batch with one answer; the ids that went out."""
    group = dispatch.mark_group(museum.database, batch, kit, batch.delivery_ids, now)
    told = [Told(delivery=one, answer=answer, digest="d", jitter=0.0) for one in group.marked]
    dispatch.settle_group(museum.database, batch, kit, told, now)
    dispatch.give_back(museum.database, batch, now=now)
    return [one.id for one in group.marked]


def send_all(
    museum: Museum, run_id: int, now: datetime = NOW, answer_to: Callable[[int], Answer | None] = lambda _: OK
) -> None:
    """Send every batch of a run; `answer_to` gives the answer for a batch by its number."""
    kit = kit_of(museum, run_id)
    while (batch := claim(museum, f"run {run_id}", now)) is not None:
        send(museum, batch, kit, answer_to(batch.number), now)
