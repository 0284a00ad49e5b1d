"""A whole personal message to its bytes, with the same message by a common template language and the library's assembly.

The message has about 6 KB of HTML and 2 KB of text, 12 inlays, a condition, a list and 6 tracked links. Both sides read the
record, ask the conditions and sign the links by the same functions, and show values by Babel; what differs is who remembers
what was shown, writes, escapes, encodes and assembles. The decoded parts of both are compared before anything is timed.
"""

import statistics
import time
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from email import message_from_bytes, policy
from email.message import EmailMessage, Message
from email.policy import SMTP
from functools import partial
from typing import Any

from jinja2 import Environment

from uvarovite.core.contacts import STANDARD_FIELDS, Field, RecordReader, record_to_json
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.inlay.program import Around, Either, Fixed, Own, Program, Repeat, Special, joined
from uvarovite.core.messages import (
    NEWEST_RENDERER,
    Button,
    Composer,
    Heading,
    Letterhead,
    LetterMaker,
    Listing,
    MessageContent,
    Paragraph,
    Passage,
    Snapshot,
    Table,
    TableColumn,
)
from uvarovite.core.messages.letter import context_of
from uvarovite.core.responses import derive_keyring
from uvarovite.core.values import Money
from uvarovite.demo.story import founding
from uvarovite.services.messages.composing import SignedTokens

ROUNDS, MESSAGES = 9, 250
NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)
SINCE = date(2026, 5, 7)
HERE = "https://skarnmuseum.example"
_LONG = (
    "Boots, a lamp and a packed lunch are all that you need. We meet at the old weighbridge at nine and are back before it "
    "is dark. Whoever comes by train is fetched from the station; please tell us by which one. "
)
CONTENT = MessageContent(
    subject='@{first_name else "Hello"}, two walks are still open',
    preheader="Your @{membership} card takes you along",
    blocks=(
        Heading(text="The Scree Path and the Copper Adit"),
        Paragraph(text='Dear @{first_name else "friend of the museum"} @{last_name},'),
        Paragraph(text=_LONG),
        Paragraph(text="@{if pledge > 100 EUR}Your pledge of @{pledge} keeps our paths open.@{else}Thank you.@{end}"),
        Paragraph(
            text=(
                Passage(text="Your membership runs until "),
                Passage(text='@{renews_on as date "d MMMM y"}', bold=True),
                Passage(text="; it takes a minute to "),
                Passage(text="renew it", link=f"{HERE}/renew?card=@{{contact_no}}"),
                Passage(text=", and you were here @{visits_last_year} times last year."),
            )
        ),
        Table(
            variable="b",
            listed="walk_bookings",
            columns=(
                TableColumn(title="Walk", value="@{b.walk}", total="Together"),
                TableColumn(title="Date", value="@{b.date}"),
                TableColumn(title="Price", value="@{b.price}", total="@{sum(walk_bookings.price)}", align="end"),
            ),
        ),
        Listing(items=("Boots", "A lamp", "Something to eat")),
        Button(label="Choose a walk", url=f"{HERE}/walks?card=@{{contact_no}}"),
        Paragraph(text=_LONG),
        Button(label="What to bring", url=f"{HERE}/walks/what-to-bring"),
        Button(label="How to get here", url=f"{HERE}/travel"),
        Paragraph(text=(Passage(text="Write to "), Passage(text="Signe", link=f"{HERE}/people/signe"), Passage(text="."))),
        Paragraph(text=(Passage(text="All walks", link=f"{HERE}/walks"), Passage(text=" of this year."))),
        Paragraph(text=_LONG * 3),
    ),
)  # fmt: skip
_NAMES = ("Ada", "Benoît", "Zoë", "Gus", "Ζωή", "Kim", "O'Hara", "Łucja")


def _person(number: int) -> dict[str, Any]:
    """One of a thousand people, no two of whom are the same."""
    return record_to_json(
        {
            "first_name": _NAMES[number % 8], "last_name": f"Thwaite-{number}", "contact_no": f"M-{number:05}",
            "membership": ("Friend", "Fellow", "Patron")[number % 3], "renews_on": date(2026, 12, 1) + timedelta(number % 365),
            "visits_last_year": Decimal(number % 12), "pledge": Money(amount=Decimal(number * 5 % 900), currency="EUR"),
            "walk_bookings": (
                {"walk": "Scree Path", "date": date(2026, 12, 5), "price": Money(amount=Decimal(24), currency="EUR")},
                {"walk": "Copper Adit", "date": date(2026, 12, 12), "price": Money(amount=Decimal(18), currency="EUR")},
            ),
        }
    )  # fmt: skip


PEOPLE = [_person(number) for number in range(1_000)]
FIELDS: dict[str, Field] = {
    field.key: field for field in (*STANDARD_FIELDS, *founding(smtp_host="127.0.0.1", smtp_port=8041).fields)
}


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
    return Composer(
        snapshot=Snapshot(letterhead=letterhead, fields=FIELDS, renderer=NEWEST_RENDERER),
        content=CONTENT.model_dump(mode="json"),
        run_id=1,
        tokens=SignedTokens(derive_keyring(b"a secret for measurements"), 1),
    )


def _template(program: Program, asked: list[Callable[..., Any]]) -> str:
    """A program in the words of the template language; `asked` are the functions that it calls by their numbers."""

    def call(function: Callable[..., Any]) -> str:
        asked.append(function)
        return f"f[{len(asked) - 1}](r, c)"

    told = ""
    for op in joined(program):
        match op:
            case Fixed(text=text):
                told += text
            case Own():
                told += "{{ " + call(partial(_shown, op)) + " }}"
            case Special(write=write, escape=escape):
                told += "{{ " + call(lambda r, c, w=write, e=escape: e(w(r, c))) + " }}"
            case Either(arms=arms):
                for place, (condition, body) in enumerate(arms):
                    asks = "True" if condition is None else call(lambda r, c, x=condition: x(r, c.clock))
                    told += f"{{% {'elif' if place else 'if'} {asks} %}}{_template(body, asked)}"
                told += "{% endif %}"
            case Repeat(listed=listed, variable=variable, body=body):
                asked.append(_scopes(listed, variable))
                inner = _template(body, asked)
                told += f"{{% for r in f[{asked.index(asked[-1]) if not inner else _place(asked, listed)}](r) %}}{inner}{{% endfor %}}"
            case Around(before=before, inner=inner_program, behind=behind):
                told += f"{{% set x %}}{_template(inner_program, asked)}{{% endset %}}{{% if x.strip() %}}"
                told += f"{_template(before, asked)}{{{{ x }}}}{_template(behind, asked)}{{% endif %}}"
    return told


def _shown(op: Own, record: dict[str, Any], context: InlayContext) -> str:
    found = op.value(record, context)
    return op.fallback if found is None else op.escape(op.show(found, context))


class _Scope:
    def __init__(self, listed: str, variable: str) -> None:
        self.listed, self.variable = listed, variable

    def __call__(self, record: dict[str, Any]) -> list[dict[str, Any]]:
        return [
            {**record, f"{self.variable}.": place, **{f"{self.variable}.{key}": value for key, value in item.items()}}
            for place, item in enumerate(record[self.listed])
        ]


def _scopes(listed: str, variable: str) -> _Scope:
    return _Scope(listed, variable)


def _place(asked: list[Callable[..., Any]], listed: str) -> int:
    return max(at for at, one in enumerate(asked) if isinstance(one, _Scope) and one.listed == listed)


def _parts(raw: bytes) -> list[str]:
    mail: Message = message_from_bytes(raw, policy=policy.default)
    return [part.get_content() for part in mail.walk() if not part.is_multipart()]  # type: ignore[attr-defined]


def _seconds(work: Callable[[int], object], first: int) -> float:
    began = time.perf_counter()
    for number in range(first, first + MESSAGES):
        work(number)
    return (time.perf_counter() - began) / MESSAGES


def rival(composer: Composer | None = None) -> Callable[[int, dict[str, Any]], bytes]:
    """What makes the message of a delivery and a record by a common template language and the library's assembly."""
    composer = composer or _composer()
    letterhead, letter = composer.letterhead, LetterMaker(CONTENT, FIELDS).letter
    asked: list[Callable[..., Any]] = []
    reader = RecordReader(FIELDS)
    environment = Environment(autoescape=False)  # noqa: S701 - what is inserted is escaped by the functions that it calls
    as_html = environment.from_string(_template(letter.html, asked), globals={"f": asked})
    as_text = environment.from_string(_template(letter.text, asked), globals={"f": asked})

    def make(number: int, record_json: dict[str, Any]) -> bytes:
        record = reader.filled(record_json)
        clock = Clock.at(NOW, letterhead.time_zone)
        links = composer.links_for(number)
        context = context_of(letterhead.context(record, clock, ""), links, letterhead.footer(SINCE))
        mail = EmailMessage(policy=SMTP)
        mail["From"], mail["To"] = "Museum <walks@skarnmuseum.example>", "ada@slatepost.example"
        mail["Subject"] = letter.subject(record, context)
        mail["Date"], mail["Message-ID"] = NOW, f"<{composer.message_id(number)}>"
        mail["List-Unsubscribe"] = f"<{links.unsubscribe}>"
        mail["List-Unsubscribe-Post"] = "List-Unsubscribe=One-Click"
        mail.set_content(as_text.render(r=record, c=context), cte="quoted-printable")
        mail.add_alternative(as_html.render(r=record, c=context), subtype="html", cte="quoted-printable")
        return mail.as_bytes()

    return make


def main() -> None:
    """Print the ratio."""
    composer = _composer()
    make = rival(composer)

    def ours(number: int) -> bytes:
        return composer.compose(
            delivery_id=number,
            address="ada@slatepost.example",
            record_json=PEOPLE[number % 1_000],
            consent_since=SINCE,
            marked_at=NOW,
        ).raw

    def theirs(number: int) -> bytes:
        return make(number, PEOPLE[number % 1_000])

    for number in range(20):
        text, html = _parts(ours(number))
        assert [part.rstrip() for part in _parts(theirs(number))] == [text.rstrip(), html.rstrip()], (
            "not the same message"
        )
    # A round of one behind a round of the other, since the machine's own speed changes.
    rounds = [(_seconds(ours, place * MESSAGES), _seconds(theirs, place * MESSAGES)) for place in range(ROUNDS)]
    mine, other, ratio = (statistics.median(column) for column in zip(*((a, b, b / a) for a, b in rounds), strict=True))
    print(
        f"compose: {1e6 * mine:.0f} µs a message of {len(html):,} B HTML and {len(text):,} B text, {1e6 * other:.0f} µs by the "
        f"template language and the library: {ratio:.1f} times as fast (median of {ROUNDS} rounds of {MESSAGES})"
    )
