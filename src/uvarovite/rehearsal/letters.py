"""What simulated people write back: letters, requests to leave, and the notes of those who are away."""

from email.message import EmailMessage
from email.policy import SMTP
from typing import TypeVar

from uvarovite.rehearsal.providers import draw

Choice = TypeVar("Choice")

_REPLIES = (
    "Could you keep a third place on the Scree Path? My sister is coming from Port Andesite and would love the lamp walk too.",
    "Is the Copper Adit open to a wheelchair? My father would like to come along.",
    "Thank you for the map. One correction: the path behind the weir has been closed since August.",
    "Je viens avec deux enfants, est-ce possible ? Ils ont six et neuf ans.",
    "Können wir am Samstag mit dem Hund kommen? Er ist alt und läuft nicht weit.",
    "Czy można zapłacić na miejscu? Nie mam karty.",
    "شكرا جزيلا، سأكون هناك",
    "The link to the walk in your message leads me to the wrong day. Which one is it?",
    "Please do not unsubscribe me from the walks, I only want fewer mails about the shop.",
    "My new address is below; please change it in your files.\n\n12 Weir Lane\nSK1 4CD Skarn",
)
_LEAVES = (
    "unsubscribe",
    "Please take me off your list.",
    "Bitte abmelden.",
    "Merci de me désinscrire.",
    "Proszę mnie wypisać.",
)
_AWAY = (
    ("Automatic reply: {subject}", "I am away until Monday and read my mail then."),
    ("Abwesenheitsnotiz: {subject}", "Ich bin bis zum 7. im Urlaub und lese keine E-Mails."),
    ("Réponse automatique : {subject}", "Je suis absent jusqu’à lundi."),
)


def reply_to(mail: EmailMessage, seed: int) -> bytes:
    """A letter of the reader's, with what it answers below."""
    told = mail.get_body(("plain",))
    quoted = str(told.get_content()).splitlines()[:14] if told is not None and hasattr(told, "get_content") else []
    words = _one_of(_REPLIES, seed, mail)
    text = "\n".join([words, "", "On Monday the museum wrote:", *(f"> {line}".rstrip() for line in quoted)])
    return _letter(mail, f"Re: {mail['Subject']}", text)


def leave_by_mail(mail: EmailMessage, seed: int) -> bytes:
    """A request to leave, and no other word."""
    return _letter(mail, f"Re: {mail['Subject']}", _one_of(_LEAVES, seed, mail))


def leave_by_address(mail: EmailMessage, address: str, subject: str) -> bytes:
    """What a mail program writes to the address that a message names for leaving (RFC 2369, section 3.2)."""
    made = _answer(mail, subject)
    del made["To"]
    made["To"] = address
    made.set_content("")
    return made.as_bytes()


def away_note(mail: EmailMessage, seed: int) -> bytes:
    """What a mailbox answers whose owner is away (RFC 3834)."""
    subject, text = _one_of(_AWAY, seed, mail)
    note = _answer(mail, subject.format(subject=mail["Subject"]))
    note["Auto-Submitted"] = "auto-replied"
    note.set_content(text, cte="quoted-printable")
    return note.as_bytes()


def _letter(mail: EmailMessage, subject: str, text: str) -> bytes:
    letter = _answer(mail, subject)
    letter.set_content(f"{text}\n", cte="quoted-printable")
    return letter.as_bytes()


def _answer(mail: EmailMessage, subject: str) -> EmailMessage:
    """An answer to a message, from its reader, without words yet."""
    made = EmailMessage(policy=SMTP)
    made["From"] = mail["To"]
    made["To"] = mail["Reply-To"] or mail["From"]
    made["Subject"] = subject
    made["Message-ID"] = f"<answer.{str(mail['Message-ID']).strip('<>')}>"
    made["In-Reply-To"] = made["References"] = str(mail["Message-ID"])
    return made


def _one_of(choices: tuple[Choice, ...], seed: int, mail: EmailMessage) -> Choice:
    return choices[int(draw(seed, "words", str(mail["Message-ID"])) * len(choices))]
