"""Forms by which people sign up, as they are set up."""

import html
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.responses.form_fields import ASKABLE
from uvarovite.core.responses.signing_up import MAIL_WORDS, TRAP, FormWords
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.messages.messages import problem_views
from uvarovite.services.saving.reasons import require_reason
from uvarovite.store import signing_up as store
from uvarovite.store.consent.ledger import topics as all_topics
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.messages import latest_version
from uvarovite.store.tables import Message, Sender, SignUpForm

# What somebody can type into one line; the address is always asked for.
_NEVER_ASKED = frozenset({"address", "contact_no", "language"})


@dataclass(frozen=True, slots=True, kw_only=True)
class FormChange:
    """How a form should be. `wording` is what people agree to; it becomes the evidence. `others` are its words in other
    languages; `welcome_message_id` goes to who has confirmed.
    """

    name: str
    title: str
    intro: str
    wording: str
    topics: Sequence[int]
    asks: Sequence[str]
    language: str
    sender_id: int
    closed: bool
    others: Sequence[FormWords] = ()
    welcome_message_id: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FormPlace:
    """Where a form is in a language, and the same for any web site."""

    language: str
    url: str
    snippet: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FormView:
    """A form with where it is in each of its languages, and its figures; `trouble` is why nobody can be welcomed."""

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
    others: list[FormWords]
    welcome_message_id: int | None
    trouble: str | None
    revision: int
    places: list[FormPlace]
    seen: int
    sent: int
    confirmed: int
    welcomed: int


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
                others=list(row.others),
                welcome_message_id=row.welcome_message_id,
                trouble=_trouble(tx, row.welcome_message_id),
                revision=row.revision,
                places=[_place(row, words, public_url, names, labels) for words in (_own_words(row), *row.others)],
                seen=row.seen,
                sent=row.sent,
                confirmed=row.confirmed,
                welcomed=row.welcomed,
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
    wording = require_reason(change.wording, "wording", "Say what people agree to, in the words that they read.")
    others = _others(change)
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
        form.others, form.welcome_message_id = others, change.welcome_message_id
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
    for language in (change.language, *(one.language for one in change.others)):
        if language not in MAIL_WORDS:
            raise BadInput("language", f"There are words in {', '.join(MAIL_WORDS)}.", field="language")
    message = tx.get(Message, change.welcome_message_id) if change.welcome_message_id else None
    if change.welcome_message_id is not None and (message is None or message.is_shared):
        raise BadInput("message", "The message that welcomes is not there any more.", field="welcome_message_id")
    if tx.get(Sender, change.sender_id) is None:
        raise BadInput("sender", "Choose who its mail comes from.", field="sender_id")


def _others(change: FormChange) -> tuple[FormWords, ...]:
    """The words in other languages, one each. Raises BadInput."""
    told = {
        one.language: FormWords(
            language=one.language,
            title=" ".join(one.title.split()),
            intro=one.intro.strip(),
            wording=one.wording.strip(),
        )
        for one in change.others
    }
    told.pop(change.language, None)
    for one in told.values():
        if not one.title or not one.wording:
            raise BadInput("others", "Each language needs a title, and what people agree to.", field="others")
    own = FormWords(language=change.language, title=change.title, intro=change.intro, wording=change.wording)
    for text in (own, *told.values()):
        if len(text.intro) > 2_000 or len(text.wording) > 1_000 or len(text.title) > 120:
            raise BadInput(
                "long", "The words are too long: at most 2,000 characters, and 1,000 of what people agree to."
            )
    return tuple(told.values())


def _trouble(tx: Transaction, message_id: int | None) -> str | None:
    version = latest_version(tx, message_id) if message_id else None
    problems = problem_views(version.content, load_fields(tx)) if version else []
    return f"The welcome waits until its message is mended: {problems[0].problem.message}" if problems else None


def _own_words(form: Row[Any]) -> FormWords:
    return FormWords(language=form.language, title=form.title, intro=form.intro, wording=form.wording)


def _place(
    form: Row[Any], words: FormWords, public_url: str, names: Mapping[int | None, str], labels: Mapping[str, str]
) -> FormPlace:
    """Plain HTML for any web site: no script, no style, nothing fetched."""
    url = f"{public_url}/s/{form.key}"
    lines = [
        f'<form action="{html.escape(url)}" method="post" accept-charset="utf-8">',
        f'  <input type="hidden" name="language" value="{words.language}">',
    ]
    several = len(form.topics) > 1
    for topic in form.topics:
        if topic in names:
            kind = "checkbox" if several else "hidden"
            label = f" {html.escape(names[topic])}</label></p>" if several else ""
            opening = "  <p><label>" if several else "  "
            lines.append(f'{opening}<input type="{kind}" name="topic" value="{topic}">{label}')
    address = html.escape(MAIL_WORDS[words.language].address)
    lines.append(f'  <p><label>{address} <input type="email" name="address" required></label></p>')
    lines += [
        f'  <p><label>{html.escape(labels[key])} <input name="field_{key}"></label></p>'
        for key in form.asks
        if key in labels
    ]
    lines.append(f'  <p hidden><input name="{TRAP}" tabindex="-1" autocomplete="off"></p>')
    lines.append(
        f"  <p>{html.escape(words.wording)}</p>\n  <p><button>{html.escape(words.title)}</button></p>\n</form>"
    )
    own = f"{url}?language={words.language}" if words.language != form.language else url
    return FormPlace(language=words.language, url=own, snippet="\n".join(lines))
