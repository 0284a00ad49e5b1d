"""What 100,000 messages show, and the proofs chosen from it, with writing the same messages' HTML without encoding it."""

import statistics
import time
from collections.abc import Callable
from datetime import UTC, datetime

from bench.compose import CONTENT, FIELDS, PEOPLE
from uvarovite.core.contacts import RecordReader
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext, locale_for
from uvarovite.core.inlay.run import run_program
from uvarovite.core.messages import Footer, LetterMaker, plain_links
from uvarovite.core.messages.features import features_of
from uvarovite.core.messages.letter import context_of
from uvarovite.core.messages.proofs import choose_proofs, shapes_of

RECIPIENTS, ROUNDS = 100_000, 3


def main() -> None:
    """Print the figures."""
    letter = LetterMaker(CONTENT, FIELDS).letter
    clock = Clock.at(datetime(2026, 11, 23, 9, tzinfo=UTC), "Europe/London")
    context = InlayContext(locale=locale_for("en", None, "en_GB"), clock=clock, provided={})
    reader = RecordReader(FIELDS)
    records = [reader.filled(one) for one in PEOPLE]
    recipients = [(records[number % len(records)], context) for number in range(RECIPIENTS)]
    footer = Footer(topic="Walks", since=None, organisation="Museum", postal_address="")
    html = run_program(letter.html)

    def write() -> None:
        for record, known in recipients[: RECIPIENTS // 10]:
            html(record, context_of(known, plain_links(), footer))

    found = features_of(lambda _: letter, recipients)

    def seconds(work: Callable[[], object]) -> float:
        began = time.perf_counter()
        work()
        return time.perf_counter() - began

    rounds = [
        (
            seconds(lambda: features_of(lambda _: letter, recipients)),
            10 * seconds(write),
            seconds(lambda: choose_proofs(found)),
            seconds(lambda: shapes_of(found)),
        )
        for _ in range(ROUNDS)
    ]
    seen, written, chosen, grouped = (statistics.median(column) for column in zip(*rounds, strict=True))
    print(
        f"proofs: features of {RECIPIENTS:,} recipients {seen:.1f} s, {seen / written:.2f} of writing their HTML; "
        f"{len(choose_proofs(found))} proofs of {len(found.features)} features in {chosen:.2f} s, "
        f"{len(shapes_of(found)):,} shapes in {grouped:.2f} s"
    )
