"""Forms by which people sign up, as they are set up."""

import html
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.responses.form_fields import ASKABLE
from uvarovite.core.responses.signing_up import MAIL_WORDS, TRAP
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.saving.reasons import require_reason
from uvarovite.store import signing_up as store
from uvarovite.store.consent.ledger import topics as all_topics
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Sender, SignUpForm

# What somebody can type into one line; the address is always asked for.
_NEVER_ASKED = frozenset({"address", "contact_no", "language"})


@dataclass(frozen=True, slots=True, kw_only=True)
class FormChange:
    """How a form should be. `wording` is what people agree to; it becomes the evidence."""

    name: str
    title: str
    intro: str
    wording: str
    topics: Sequence[int]
    asks: Sequence[str]
    language: str
    sender_id: int
    closed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FormView:
    """A form with where it is, the same for any web site, and its figures."""

    id: int
    name: str
    title: str
    intro: str
    wording: str
    topics: list[int]
    asks: list[str]
    language: str
    sender_id: int
    closed: bool
    revision: int
    url: str
    snippet: str
    seen: int
    sent: int
    confirmed: int


@needs(Permission.SET_UP)
def forms(database: Database, actor: Actor, *, public_url: str) -> list[FormView]:
    """All forms."""
    with database.transaction() as tx:
        names = {one.id: one.name for one in all_topics(tx)}
        labels = {key: one.label for key, one in load_fields(tx).items()}
        return [
            FormView(
                id=row.id,
                name=row.name,
                title=row.title,
                intro=row.intro,
                wording=row.wording,
                topics=[one for one in row.topics if one in names],
                asks=[one for one in row.asks if one in labels],
                language=row.language,
                sender_id=row.sender_id,
                closed=row.closed_at is not None,
                revision=row.revision,
                url=f"{public_url}/s/{row.key}",
                snippet=_snippet(row, f"{public_url}/s/{row.key}", names, labels),
                seen=row.seen,
                sent=row.sent,
                confirmed=row.confirmed,
            )
            for row in store.forms_with_figures(tx)
        ]


@needs(Permission.SET_UP)
def save_form(
    database: Database, actor: Actor, form_id: int | None, change: FormChange, *, revision: int | None, now: datetime
) -> int:
    """Make or change a form; its id. Raises BadInput, NotFound, Conflict."""
    name, title = " ".join(change.name.split()), " ".join(change.title.split())
    for field, text, most in (("name", name, 80), ("title", title, 120)):
        if not text or len(text) > most:
            raise BadInput(field, f"It needs a {field} of at most {most} characters.", field=field)
    if len(change.intro) > 2_000 or len(change.wording) > 1_000:
        raise BadInput("long", "The words are too long: at most 2,000 characters, and 1,000 of what people agree to.")
    wording = require_reason(change.wording, "wording", "Say what people agree to, in the words that they read.")
    with database.transaction() as tx:
        _check(tx, change)
        if form_id is None:
            form = SignUpForm(
                key=secrets.token_urlsafe(9), name=name, title=title, intro="", wording=wording, topics=[], asks=[],
                language="en", sender_id=change.sender_id, created_at=now,
            )  # fmt: skip
        else:
            found = tx.get(SignUpForm, form_id, with_for_update=True)
            if found is None:
                raise NotFound("form")
            if found.revision != revision:
                raise Conflict("changed", "Somebody else changed this form meanwhile; look at it again.")
            form = found
            form.revision += 1
        form.name, form.title, form.intro, form.wording = name, title, change.intro.strip(), wording
        form.topics, form.asks = list(dict.fromkeys(change.topics)), list(dict.fromkeys(change.asks))
        form.language, form.sender_id = change.language, change.sender_id
        form.closed_at = (form.closed_at or now) if change.closed else None
        tx.add(form)
        tx.flush()
        assert form.id is not None
        audit(tx, actor, Action.FORM_SAVED, form.id, name=name)
        return form.id


def _check(tx: Transaction, change: FormChange) -> None:
    known, fields = {one.id for one in all_topics(tx)}, load_fields(tx)
    if not change.topics or not known.issuperset(change.topics):
        raise BadInput("topics", "Choose at least one topic that people sign up for.", field="topics")
    for key in change.asks:
        if key not in fields or key in _NEVER_ASKED or fields[key].type not in ASKABLE:
            raise BadInput("asks", "One of these fields cannot be asked for on a form.", field="asks")
    if change.language not in MAIL_WORDS:
        raise BadInput("language", f"There are words in {', '.join(MAIL_WORDS)}.", field="language")
    if tx.get(Sender, change.sender_id) is None:
        raise BadInput("sender", "Choose who its mail comes from.", field="sender_id")


def _snippet(form: object, url: str, names: dict[int | None, str], labels: dict[str, str]) -> str:
    """Plain HTML for any web site: no script, no style, nothing fetched."""
    told: SignUpForm = form  # type: ignore[assignment]
    lines = [f'<form action="{html.escape(url)}" method="post" accept-charset="utf-8">']
    several = len(told.topics) > 1
    for topic in told.topics:
        if topic in names:
            kind = "checkbox" if several else "hidden"
            label = f" {html.escape(names[topic])}</label></p>" if several else ""
            opening = "  <p><label>" if several else "  "
            lines.append(f'{opening}<input type="{kind}" name="topic" value="{topic}">{label}')
    lines.append('  <p><label>E-mail address <input type="email" name="address" required></label></p>')
    lines += [
        f'  <p><label>{html.escape(labels[key])} <input name="field_{key}"></label></p>'
        for key in told.asks
        if key in labels
    ]
    lines.append(f'  <p hidden><input name="{TRAP}" tabindex="-1" autocomplete="off"></p>')
    lines.append(f"  <p>{html.escape(told.wording)}</p>\n  <p><button>{html.escape(told.title)}</button></p>\n</form>")
    return "\n".join(lines)
