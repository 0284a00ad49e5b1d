"""Who writes to whom, and how one leaves."""

from datetime import datetime
from email.headerregistry import Address as MailAddress
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime
from typing import NamedTuple

from uvarovite.core.inlay import header
from uvarovite.core.values import wire_form


class Envelope(NamedTuple):
    """Who writes to whom, and how one leaves. `message_id` stands without angle brackets; `date` is aware.

    `unsubscribe_url` is the one-click address of RFC 8058, `leave_address` one to which a message means the same (RFC 2369);
    `list_id` a name by RFC 2919, without brackets. For a message that is no bulk mail, such as a test to oneself, they are None.
    """

    message_id: str
    date: datetime
    from_name: str
    from_address: str
    to_name: str
    to_address: str
    reply_to: str | None
    list_id: str | None
    unsubscribe_url: str | None
    leave_address: str | None = None


def mailbox(name: str, address: str) -> MailAddress:
    """A mailbox for a header: the name encoded where it needs it, the domain in its wire form."""
    local, _, domain = wire_form(address).rpartition("@")
    return MailAddress(display_name=header(name), username=local, domain=domain)


def headed(envelope: Envelope, subject: str) -> EmailMessage:
    """A message that is no bulk mail, with its headers and without a body yet."""
    mail = EmailMessage(policy=SMTP)
    mail["Date"] = format_datetime(envelope.date)
    mail["Message-ID"] = f"<{envelope.message_id}>"
    mail["From"] = mailbox(envelope.from_name, envelope.from_address)
    mail["To"] = mailbox(envelope.to_name, envelope.to_address)
    if envelope.reply_to:
        mail["Reply-To"] = mailbox("", envelope.reply_to)
    mail["Subject"] = header(subject)
    return mail
