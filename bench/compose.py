"""What a personal message costs on top of the bare assembly of one."""

import statistics
import time
from collections.abc import Callable
from datetime import UTC, date, datetime
from email.message import EmailMessage
from email.policy import SMTP

from uvarovite.core.contacts import STANDARD_FIELDS, Field, record_to_json
from uvarovite.core.messages import NEWEST_RENDERER, Composer, Letterhead, Snapshot
from uvarovite.core.responses import derive_keyring
from uvarovite.demo.story import MESSAGE, founding
from uvarovite.services.messages.composing import SignedTokens

ROUNDS, MESSAGES = 7, 300
NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)


def _composer() -> Composer:
    letterhead = Letterhead(
        organisation="Skarn Valley Mineral Museum",
        postal_address="1 Slate Row",
        locale="en_GB",
        time_zone="Europe/London",
        list_domain="skarnmuseum.example",
        topic_key="field_walks",
        topic_name="Field walks",
        from_name="Museum",
        from_address="walks@skarnmuseum.example",
        reply_to=None,
        public_url="http://127.0.0.1:8040",
        key_id=1,
    )
    own = founding(smtp_host="127.0.0.1", smtp_port=8041).fields
    fields: dict[str, Field] = {field.key: field for field in (*STANDARD_FIELDS, *own)}
    return Composer(
        snapshot=Snapshot(letterhead=letterhead, fields=fields, renderer=NEWEST_RENDERER),
        content=MESSAGE.model_dump(mode="json"),
        run_id=1,
        tokens=SignedTokens(derive_keyring(b"a secret for measurements"), 1),
    )


def _median_seconds(work: Callable[[int], object]) -> float:
    rounds = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        for number in range(MESSAGES):
            work(number)
        rounds.append((time.perf_counter() - began) / MESSAGES)
    return statistics.median(rounds)


def main() -> None:
    """Print the ratio."""
    composer = _composer()
    record = record_to_json(
        {"first_name": "Ada", "contact_no": "M-01", "membership": "Patron", "renews_on": date(2026, 12, 1)}
    )

    def personal(number: int) -> bytes:
        return composer.compose(
            delivery_id=number,
            address="ada@slatepost.example",
            record_json=record,
            consent_since=date(2026, 5, 7),
            marked_at=NOW,
        ).raw

    sample = composer.compose(
        delivery_id=1, address="ada@slatepost.example", record_json=record, consent_since=None, marked_at=NOW
    )

    def bare(number: int) -> bytes:
        mail = EmailMessage(policy=SMTP)
        mail["From"], mail["To"], mail["Subject"] = "walks@skarnmuseum.example", "ada@slatepost.example", "Walks"
        mail.set_content(sample.rendered.text, cte="quoted-printable")
        mail.add_alternative(sample.rendered.html, subtype="html", cte="quoted-printable")
        return mail.as_bytes()

    ours, theirs = _median_seconds(personal), _median_seconds(bare)
    print(
        f"compose: {1000 * ours:.2f} ms a personal message, {1000 * theirs:.2f} ms a bare one of {len(sample.raw)} bytes: "
        f"ratio {ours / theirs:.2f} (median of {ROUNDS} rounds of {MESSAGES})"
    )
