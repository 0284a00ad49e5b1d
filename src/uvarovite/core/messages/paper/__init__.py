"""Letters on paper: the words of a message for people who have no e-mail address, with theirs in an envelope's window."""

from uvarovite.core.messages.paper.address import Home, PaperAddress, address_on_paper, home_of
from uvarovite.core.messages.paper.letters import PaperFacts, PaperMaker
from uvarovite.core.messages.paper.sheets import SHEETS, Paper, Sheet

__all__ = [
    "SHEETS",
    "Home",
    "Paper",
    "PaperAddress",
    "PaperFacts",
    "PaperMaker",
    "Sheet",
    "address_on_paper",
    "home_of",
]
