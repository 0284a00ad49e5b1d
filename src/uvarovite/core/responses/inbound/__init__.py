"""Mail that comes in: what each message is, and what a report says."""

from uvarovite.core.responses.inbound.classify import SIGNS, ClassifiedMail, MailKind, Sign, classify_mail
from uvarovite.core.responses.inbound.reports import Happened, RecipientReport, Weight

__all__ = [
    "SIGNS",
    "ClassifiedMail",
    "Happened",
    "MailKind",
    "RecipientReport",
    "Sign",
    "Weight",
    "classify_mail",
]
