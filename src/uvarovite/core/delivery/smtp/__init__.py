"""The conversation with a relay, without a network."""

from uvarovite.core.delivery.smtp.commands import CommandFault
from uvarovite.core.delivery.smtp.conversation import Conversation, Event, Over, Ready, Secure
from uvarovite.core.delivery.smtp.mailing import MOST_IN_HAND, PIECE_BYTES, Settled
from uvarovite.core.delivery.smtp.opening import Settings
from uvarovite.core.delivery.smtp.steps import CONNECTION, MAIL, ConnectionEvent, ConnectionStep, MailEvent, MailStep
from uvarovite.core.delivery.smtp.wire import Said

__all__ = [
    "CONNECTION",
    "MAIL",
    "MOST_IN_HAND",
    "PIECE_BYTES",
    "CommandFault",
    "ConnectionEvent",
    "ConnectionStep",
    "Conversation",
    "Event",
    "MailEvent",
    "MailStep",
    "Over",
    "Ready",
    "Said",
    "Secure",
    "Settings",
    "Settled",
]
