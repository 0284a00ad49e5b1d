"""Letters on paper: the words of a message for people who have no e-mail address, with theirs in an envelope's window."""

from uvarovite.core.messages.paper.address import Home, PaperAddress, address_on_paper, home_of
from uvarovite.core.messages.paper.letters import PaperFacts, PaperMaker
from uvarovite.core.messages.paper.pages import NO_PDFS, MessagePages, PdfMeans, Press
from uvarovite.core.messages.paper.sheets import SHEETS, Paper, Sheet

__all__ = [
    "NO_PDFS",
    "SHEETS",
    "Home",
    "MessagePages",
    "Paper",
    "PaperAddress",
    "PaperFacts",
    "PaperMaker",
    "PdfMeans",
    "Press",
    "Sheet",
    "address_on_paper",
    "home_of",
]
