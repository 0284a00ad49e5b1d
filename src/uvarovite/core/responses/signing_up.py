"""Signing up: what a form says, and the mail that asks whoever has the mailbox whether they meant it."""

import html
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import timedelta
from urllib.parse import parse_qs

from uvarovite.core.messages.envelope import Envelope, headed
from uvarovite.core.messages.theme import Theme
from uvarovite.core.values import StoredForm, form_of

# A link to confirm works so long; who has not used it is reminded once, so long after the first mail.
LASTS, REMIND_AFTER = timedelta(days=7), timedelta(days=2)
# Nobody fills in a form in less.
FASTEST = timedelta(seconds=2)
# People do not see this field; whoever fills it in is a machine.
TRAP = "website"
LONGEST_FIELD = 200
_MOST_FIELDS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class FormWords:
    """What a form says in a language (a code): its title, what stands above it, and what people agree to."""

    language: str
    title: str
    intro: str
    wording: str


WORDS_FORM: StoredForm[tuple[FormWords, ...]] = form_of(tuple[FormWords, ...], under="words")


@dataclass(frozen=True, slots=True, kw_only=True)
class FilledForm:
    """What somebody filled in, `language` in which form of it, "" where it does not say. `shown` is the token that says when the page was shown, "" where another site shows the form."""

    address: str
    topics: frozenset[int]
    fields: Mapping[str, str] = field(default_factory=dict)
    language: str = ""
    shown: str = ""
    trapped: bool = False


def read_form(body: bytes, asks: Sequence[str]) -> FilledForm | None:
    """What a form says, as far as it is asked for; None where it is none of ours."""
    try:
        told = parse_qs(body.decode("utf-8"), max_num_fields=_MOST_FIELDS)
    except (UnicodeDecodeError, ValueError):
        return None

    def one(key: str) -> str:
        text = told.get(key, [""])[-1]
        return " ".join("".join(sign if sign.isprintable() else " " for sign in text).split())[:LONGEST_FIELD]

    if "address" not in told:
        return None
    topics = [text for text in told.get("topic", []) if text.isascii() and text.isdecimal() and len(text) < 10]
    return FilledForm(
        address=one("address"),
        topics=frozenset(int(text) for text in topics),
        fields={key: one(f"field_{key}") for key in asks if one(f"field_{key}")},
        language=one("language"),
        shown=one("shown"),
        trapped=bool(one(TRAP)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _MailWords:
    subject: str
    reminder: str
    asked: str
    press: str
    ignore: str
    address: str


# {organisation}, {topics} and {days} are filled in.
MAIL_WORDS: Mapping[str, _MailWords] = {
    "en": _MailWords(
        subject="Please confirm: {topics}",
        reminder="Still to be confirmed: {topics}",
        asked="Somebody, probably you, signed this address up for {topics} at {organisation}.",
        press="Yes, that was me",
        ignore="If it was not you, do nothing: you get nothing more. The link works for {days} days.",
        address="E-mail address",
    ),
    "de": _MailWords(
        subject="Bitte bestätigen: {topics}",
        reminder="Noch zu bestätigen: {topics}",
        asked="Jemand, wahrscheinlich Sie, hat diese Adresse bei {organisation} für {topics} angemeldet.",
        press="Ja, das war ich",
        ignore="Wenn Sie es nicht waren, tun Sie nichts: Sie erhalten nichts weiter. Der Link gilt {days} Tage.",
        address="E-Mail-Adresse",
    ),
    "fr": _MailWords(
        subject="Merci de confirmer : {topics}",
        reminder="Encore à confirmer : {topics}",
        asked="Quelqu’un, sans doute vous, a inscrit cette adresse à {topics} chez {organisation}.",
        press="Oui, c’était moi",
        ignore="Si ce n’était pas vous, ne faites rien : vous ne recevrez rien d’autre. Le lien est valable {days} jours.",
        address="Adresse électronique",
    ),
    "pl": _MailWords(
        subject="Prosimy o potwierdzenie: {topics}",
        reminder="Czeka na potwierdzenie: {topics}",
        asked="Ktoś, zapewne Państwo, zapisał ten adres na {topics} w {organisation}.",
        press="Tak, to ja",
        ignore="Jeśli to nie Państwo, proszę nic nie robić: nic więcej nie przyjdzie. Link działa {days} dni.",
        address="Adres e-mail",
    ),
}


def assemble_sign_up(
    envelope: Envelope,
    *,
    organisation: str,
    topics: Sequence[str],
    url: str,
    language: str,
    theme: Theme,
    reminds: bool,
) -> bytes:
    """The mail that asks; the same input gives the same bytes. Nothing in it was written by whoever filled the form in."""
    words = MAIL_WORDS.get(language, MAIL_WORDS["en"])
    told = {"organisation": organisation, "topics": ", ".join(topics), "days": LASTS.days}
    mail = headed(envelope, (words.reminder if reminds else words.subject).format(**told))
    # RFC 3834 section 5: no machine need answer it.
    mail["Auto-Submitted"] = "auto-generated"
    asked, ignore = words.asked.format(**told), words.ignore.format(**told)
    mail.set_content(f"{asked}\n\n{words.press}:\n{url}\n\n{ignore}\n", charset="utf-8", cte="quoted-printable")
    page = (
        f'<!doctype html><html lang="{language}"><head><meta charset="utf-8"><title>{html.escape(words.press)}</title></head>'
        f'<body style="font-family:{html.escape(theme.font)};font-size:16px;color:{theme.ink};background:{theme.paper}">'
        f"<p>{html.escape(asked)}</p>"
        f'<p><a href="{html.escape(url)}" style="display:inline-block;padding:12px 18px;border-radius:{theme.corners}px;'
        f'background:{theme.accent};color:{theme.on_accent};text-decoration:none">{html.escape(words.press)}</a></p>'
        f"<p>{html.escape(ignore)}</p></body></html>\n"
    )
    mail.add_alternative(page, subtype="html", charset="utf-8", cte="quoted-printable")
    mail.set_boundary(f"=_{envelope.message_id.partition('@')[0]}")
    return mail.as_bytes()
