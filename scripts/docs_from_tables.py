"""Write the pages of docs that the tables of the core give, so that they cannot say anything else than what holds."""

import sys
from datetime import UTC, date, datetime
from decimal import Decimal
from enum import StrEnum
from pathlib import Path

from uvarovite.core.accounts import PERMISSIONS, ROLES, permissions_of
from uvarovite.core.contacts import STANDARD_FIELDS, FieldType, Record
from uvarovite.core.contacts.import_states import IMPORT, ImportState
from uvarovite.core.delivery import BATCH, DELIVERY, RUN, BatchState, DeliveryState, RunState
from uvarovite.core.delivery.smtp import CONNECTION, MAIL, ConnectionStep, MailStep
from uvarovite.core.expressions import EVENTS, OPERATORS, SUBJECTS, Clock
from uvarovite.core.inlay import (
    FORMATS,
    FUNCTIONS,
    PROVIDED,
    InlayContext,
    check_inlay,
    compile_inlay,
    locale_for,
    parse_inlay,
    plain,
)
from uvarovite.core.inlay.values import RULES
from uvarovite.core.values import Money
from uvarovite.core.values.state_table import Event, State, StateTable
from uvarovite.demo.story import founding

PLACE = Path(__file__).parents[1] / "docs"
TYPES = {
    FieldType.TEXT: "text",
    FieldType.NUMBER: "number",
    FieldType.MONEY: "money",
    FieldType.DATE: "date",
    FieldType.DATE_TIME: "date and time",
    FieldType.YES_NO: "yes/no",
    FieldType.CHOICE: "choice",
    FieldType.LIST: "list",
}
OPERANDS = {"none": "", "one": " A", "two": " A and B", "list": " (A, B …)", "period": " N days\\|weeks\\|months"}


def _types(types: frozenset[FieldType]) -> str:
    return "every type" if types == frozenset(FieldType) else ", ".join(TYPES[one] for one in FieldType if one in types)


def criteria() -> str:
    """docs/languages/criteria.md."""
    rows = "\n".join(
        "| `" + f"field {row.words}{OPERANDS[row.operands]}".rstrip() + f"` | {_types(row.types)} | {row.meaning} |"
        for row in OPERATORS.values()
    )
    subjects = "\n".join(
        f"| `{written}` | {meaning} |" for row in SUBJECTS.values() for written, meaning in row.meaning.items()
    )
    return f"""# Criteria

Words, not symbols, so that one can read them aloud. The same language stands in conditions of a message, where only
the record can be asked about.

    membership in ("Fellow", "Patron") and renews_on within next 30 days and not volunteer
    town starts with "Sk" or pledge >= 50 EUR
    first_name is blank
    any walk_bookings (places >= 2 and date after today) and never clicked

| written | goes with | true when the field |
| --- | --- | --- |
{rows}

The records of a list are asked about by conditions of their own, in which its parts are the fields:

| written | true when |
| --- | --- |
| `any walk_bookings (places >= 2 and date after today)` | a single record holds all of it |
| `every walk_bookings (places is 1)` | there is a record, and all of them hold it |
| `count(walk_bookings) > 1` | there are so many; a list without records counts 0 |

Criteria also ask about more than the record. Names stand between quotes and ignore case:

| written | true when |
| --- | --- |
| {", ".join(f"`{event}`" for event in EVENTS)} | it happened; machines' opens and clicks do not count |
{subjects}
| `verification is "takes mail"` | so say the name servers of their address's domain |

Conditions are joined by `and` and `or` (`and` binds closer), turned by `not`, grouped by brackets. `everyone` stands
for no condition at all.

- Texts stand between straight double quotes; `\\"` is a quote, `\\\\` a backslash. Comparing texts ignores case and
  treats composed and decomposed letters alike.
- Money is an amount with its currency: `50 EUR`. Days are written 2026-05-31, or by their distance from today:
  `today`, `today + 2 weeks`, `today - 30 days`. `now` goes with a date and time, before or after.
- A comparison with a blank is false, and `not` turns it true: `not town is "Skarn"` finds those without a town too,
  `town is not "Skarn"` does not.
- *Today* is the day in the organisation's time zone.
"""


# Whoever the examples are shown for, and when: in Skarn, in English.
PERSON: Record = {
    "first_name": "Zoë",
    "town": "skarn quay",
    "postcode": "SK1 2AB",
    "country": "United Kingdom",
    "membership": "Fellow",
    "pledge": Money(amount=Decimal("1250.5"), currency="EUR"),
    "renews_on": date(2026, 10, 5),
    "visits_last_year": Decimal("0.25"),
    "last_seen": datetime(2026, 3, 30, 23, 30, tzinfo=UTC),
    "walk_bookings": (
        {"walk": "Copper Adit", "date": date(2026, 12, 12), "price": Money(amount=Decimal("18.5"), currency="EUR")},
        {"walk": "Scree Path", "date": date(2026, 12, 5), "price": Money(amount=Decimal("24"), currency="EUR")},
    ),
}
CONTEXT = InlayContext(
    locale=locale_for("en", None, "en_GB"),
    clock=Clock.at(datetime(2026, 3, 31, 11, tzinfo=UTC), "Europe/London"),
    provided={"organisation.name": "Skarn Valley Mineral Museum", "sender.name": "Signe Vale"},
)
EXAMPLES = {
    "text": "@{town as text}", "upper": "@{town as upper}", "lower": "@{membership as lower}",
    "title": "@{town as title}", "number": "@{visits_last_year as number}",
    "percent": "@{visits_last_year as percent}", "money": "@{pledge as money}",
    "date": '@{renews_on as date "d MMMM"}', "date_time": "@{last_seen as date_time}",
    "time": "@{last_seen as time}", "names": "@{walk_bookings as names}",
    "count": "@{count(walk_bookings)}", "sum": "@{sum(walk_bookings.price)}",
    "join": '@{join(", ", first_name, last_name, country)}', "postal_address": "@{postal_address()}",
}  # fmt: skip
RECKONED = {
    FieldType.NUMBER: "number", FieldType.MONEY: "money", FieldType.DATE: "date", FieldType.DATE_TIME: "date and time",
}  # fmt: skip


def _shown(source: str) -> str:
    """An example and what it gives."""
    fields = {field.key: field for field in (*STANDARD_FIELDS, *founding(smtp_host="", smtp_port=0).fields)}
    nodes = parse_inlay(source)
    assert not check_inlay(nodes, fields), source
    gives = compile_inlay(nodes, fields).render(PERSON, CONTEXT, plain).replace("\n", " ⏎ ")
    return f"`{source}` | {gives}"


def inlay() -> str:
    """docs/languages/inlay.md."""
    formats = "\n".join(
        f"| `as {row.name}` | {_types(row.types)} | {row.meaning} | {_shown(EXAMPLES[row.name])} |"
        for row in FORMATS.values()
    )
    functions = "\n".join(
        f"| `{row.use}` | {row.meaning} | {_shown(EXAMPLES[row.name])} |" for row in FUNCTIONS.values()
    )
    rules = ", ".join(
        f"{RECKONED[row.left]} {row.sign} {RECKONED[row.right]} = {RECKONED[row.gives]}" for row in RULES.values()
    )
    provided = ", ".join(f"`@{{{name}}}`" for name in PROVIDED)
    written = "\n".join(
        f"| {meaning} | {_shown(source)} |"
        for meaning, source in (
            ("the field", "@{first_name}"),
            ("with a fallback for those who have none", '@{last_name else "friend"}'),
            ("in a format", '@{renews_on as date "EEEE d MMMM"}'),
            ("calculated", "@{renews_on + 14 days}, @{pledge / 2}"),
            ("a condition", '@{if membership is "Patron"}two guests@{elif volunteer}a lamp@{else}a guest@{end}'),
            ("each record of a list", "@{each b in walk_bookings by date}@{b.walk} @{else}none@{end}"),
            ("a note to colleagues, never sent", "@{# ask Tomas }"),
            ("a literal @{", "@@{"),
        )
    )
    return f"""# Inlays

A place in a message for a person's own data, in its subject, preheader, texts, button labels and link addresses.

| what | written | gives |
| --- | --- | --- |
{written}

| format | goes with | shows it | for example | |
| --- | --- | --- | --- | --- |
{formats}

Without a format, money, numbers and dates are shown as the message's language writes them. A yes/no field has no words
of its own: choose them with `@{{if …}}`. Besides fields there are {provided}. Conditions are [criteria](criteria.md).

| function | gives | for example | |
| --- | --- | --- | --- |
{functions}

With + - * / and brackets one reckons: {rules}. Days, weeks and months are added to a date, or to a date and time, and taken
from it. Money of two currencies is never reckoned together. Where something is blank, or cannot be worked out, the whole
is blank, and the fallback stands in.

Within `@{{each b in walk_bookings}} … @{{end}}` a record's parts are fields, such as `b.walk`, also in conditions. Records
come in their own order, or `by` a part, those without it last. What stands behind `@{{else}}` is for whoever has none.

What comes from a record is escaped for the place where it stands: HTML, an attribute, a part of a link, a header.
"""


def _drawn(table: StateTable[State, Event], kind: type[StrEnum], about: str) -> str:
    moves = "\n".join(
        f"    {before} --> {after}: {event.replace('_', ' ')}" for (before, event), after in table.moves.items()
    )
    ends = "\n".join(f"    {state} --> [*]" for state in kind if state in table.final)
    return f"""## {table.name.capitalize()}

{about}

```mermaid
stateDiagram-v2
    [*] --> {table.start}
{moves}
{ends}
```
"""


def states() -> str:
    """docs/states.md."""
    drawn = [
        _drawn(RUN, RunState, "One release of a campaign. It ends by itself when nothing of it can move any more."),
        _drawn(BATCH, BatchState, "What a worker claims, with a lease that it renews."),
        _drawn(
            DELIVERY,
            DeliveryState,
            "One message to one person. *Mark* looks at consent and suppression a last time; *lose*: the worker died before the relay's answer was recorded, and it is never sent again; *break*: the connection came to nothing before the relay can have had it, which is no attempt.",
        ),
        _drawn(CONNECTION, ConnectionStep, "A connection to a relay (RFC 5321, 3207, 4954)."),
        _drawn(
            MAIL,
            MailStep,
            "One message on a connection, by the reply that it waits for. Where it breaks off before *end*, the relay cannot have taken it; in *end* nobody can know.",
        ),
        _drawn(
            IMPORT, ImportState, "A file of people. *Drop*: somebody in it asked to be forgotten before it was written."
        ),
    ]
    return "# States\n\nEach step that there is; the database refuses every other.\n\n" + "\n".join(drawn)


def permissions() -> str:
    """docs/permissions.md."""
    roles = "\n".join(f"- **{row.label}**: {row.words}" for row in ROLES)
    head = " | ".join(row.label for row in ROLES)
    rows = "\n".join(
        f"| `{row.permission}` | {row.words} | "
        + " | ".join("yes" if row.permission in permissions_of(role.role) else "" for role in ROLES)
        + f" | {'yes' if row.for_tokens else ''} |"
        for row in PERMISSIONS.values()
    )
    return f"""# Who may do what

{roles}

A token may do what it was given out of the last column, as long as whoever made it may do it themselves. Each route of
the API names its permission in `/api/openapi.json`.

| permission | may | {head} | tokens |
| --- | --- | {" | ".join("---" for _ in ROLES)} | --- |
{rows}
"""


PAGES = {
    "permissions.md": permissions,
    "languages/criteria.md": criteria,
    "languages/inlay.md": inlay,
    "states.md": states,
}

if __name__ == "__main__":
    for name, page in PAGES.items():
        (PLACE / name).write_text(page(), encoding="utf-8")
    sys.exit(0)
