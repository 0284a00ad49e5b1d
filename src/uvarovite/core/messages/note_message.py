"""A few plain words to one person, such as a test of a relay."""

from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime

from uvarovite.core.inlay import header
from uvarovite.core.messages.envelope import Envelope, mailbox


def assemble_note(subject: str, words: str, envelope: Envelope) -> bytes:
    """The whole message; the same input gives the same bytes."""
    mail = EmailMessage(policy=SMTP)
    mail["Date"] = format_datetime(envelope.date)
    mail["Message-ID"] = f"<{envelope.message_id}>"
    mail["From"] = mailbox(envelope.from_name, envelope.from_address)
    mail["To"] = mailbox(envelope.to_name, envelope.to_address)
    mail["Subject"] = header(subject)
    mail.set_content(words, charset="utf-8", cte="quoted-printable")
    return mail.as_bytes()
