"""1,000 letters on paper, with as many pages of one word each by the library alone."""

import statistics
import time
from collections.abc import Callable
from datetime import UTC, date, datetime

from bench.compose import FIELDS, PEOPLE
from uvarovite.core.contacts import RecordReader
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext, locale_for
from uvarovite.core.messages.paper import Paper, PaperFacts, PaperMaker
from uvarovite.demo.story import MESSAGE
from uvarovite.sandbox.paper import lay_out

LETTERS, ROUNDS = 1_000, 3
FACTS = PaperFacts(
    organisation="Museum", postal_address="1 Slate Row\nSkarn", locale="en_GB", day=date(2026, 11, 29), paper=Paper.DIN
)


def main() -> None:
    """Print the figures."""
    maker = PaperMaker(MESSAGE, FIELDS)
    clock = Clock.at(datetime(2026, 11, 23, 9, tzinfo=UTC), "Europe/London")
    context = InlayContext(locale=locale_for("en", None, "en_GB"), clock=clock, provided={})
    records = [RecordReader(FIELDS).filled(one) for one in PEOPLE]
    style = maker.style(Paper.DIN)

    def letters() -> list[str]:
        return [maker.page(records[number % len(records)], context, FACTS) for number in range(LETTERS)]

    def seconds(work: Callable[[], object]) -> float:
        began = time.perf_counter()
        work()
        return time.perf_counter() - began

    pages = sum(lay_out(letters(), style, {}).pages)
    rounds = [
        (
            seconds(letters),
            seconds(lambda: lay_out(letters(), style, {})),
            seconds(lambda: lay_out(["<!doctype html><p>word"] * LETTERS, "", {})),
        )
        for _ in range(ROUNDS)
    ]
    written, whole, bare = (statistics.median(column) for column in zip(*rounds, strict=True))
    print(
        f"letters: {LETTERS:,} on {pages:,} pages in {whole:.1f} s ({written:.2f} s of it writing them), "
        f"{whole / bare:.1f} times as many pages of one word each"
    )
