"""The starters as a filter sees them that none of us wrote: SpamAssassin, with the rules of its package and no network."""

import mailbox
import re
import subprocess
from datetime import UTC, date, datetime
from pathlib import Path

from tests.support.museum import KEYRING
from uvarovite.core.contacts import STANDARD_FIELDS
from uvarovite.core.messages import NEWEST_RENDERER, Composer, Letterhead, Snapshot
from uvarovite.demo.starters import STARTERS
from uvarovite.demo.starters_in_other_languages import in_all_languages
from uvarovite.demo.story import founding
from uvarovite.services.messages.composing import SignedTokens

FIELDS = {field.key: field for field in (*STANDARD_FIELDS, *founding(smtp_host="127.0.0.1", smtp_port=8041).fields)}
LETTERHEAD = Letterhead(
    organisation="Skarn Valley Mineral Museum", postal_address="1 Slate Row\nSK1 2AB Skarn\nSkarnland", locale="en_GB",
    time_zone="Europe/London", list_domain="skarnmuseum.example", topic_key="field_walks", topic_name="Field walks",
    from_name="Skarn Valley Mineral Museum", from_address="walks@skarnmuseum.example", reply_to=None,
    public_url="https://mail.skarnmuseum.example", key_id=1, signature="Signe Vale\nSkarn Valley Mineral Museum",
)  # fmt: skip
LANGUAGES = ("en", "de", "fr", "pl")
READER = {"first_name": "Ada", "last_name": "Wren", "contact_no": "M-0001", "membership": "Patron"}


def test_a_filter_finds_nothing_against_the_starters(tmp_path: Path) -> None:
    box = mailbox.mbox(tmp_path / "starters.mbox")
    now = datetime.now(UTC)
    for content in STARTERS.values():
        composer = Composer(
            snapshot=Snapshot(letterhead=LETTERHEAD, fields=FIELDS, renderer=NEWEST_RENDERER),
            content=in_all_languages(content).model_dump(mode="json"), run_id=1, tokens=SignedTokens(KEYRING, KEYRING.current),
        )  # fmt: skip
        for language in LANGUAGES:
            made = composer.compose(
                delivery_id=len(box) + 1, address="ada@slatepost.example", record_json={**READER, "language": language},
                consent_since=date(2026, 5, 7), marked_at=now,
            )  # fmt: skip
            box.add(made.raw)
    # What it would say of a message that nobody wants, so that silence means something.
    box.add(
        b"From: x@skarnmuseum.example\nSubject: FREE MONEY\n\nXJS*C4JDBQADN1.NSBN3*2IDNEN*GTUBE-STANDARD-ANTI-UBE-TEST-EMAIL*C.34X\n"
    )
    box.close()
    judged = subprocess.run(
        ["spamassassin", "--local", "--mbox", str(tmp_path / "starters.mbox")],
        env={"HOME": str(tmp_path), "PATH": "/usr/bin:/bin"}, capture_output=True, text=True, errors="replace", check=True,
    )  # fmt: skip
    told = re.findall(r"^X-Spam-Status: \w+, score=(-?[\d.]+) (.*(?:\n\s.*)*)", judged.stdout, re.MULTILINE)
    # They come in an order of its own.
    *scores, unwanted = sorted(float(score) for score, _ in told)
    assert unwanted > 100
    assert len(scores) == len(STARTERS) * len(LANGUAGES)
    assert scores[-1] < 1.0, told
