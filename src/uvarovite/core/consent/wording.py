"""Consent in words, for whoever asks what is known about them."""

from collections.abc import Mapping
from typing import Any

from uvarovite.core.consent.ledger import ConsentEventKind

STATE_WORDS = {
    "subscribed": "opted in",
    "paused": "pauses",
    "asked": "asked, no answer",
    "left": "left",
    "never": "never asked",
}

KIND_WORDS: Mapping[ConsentEventKind, str] = {
    ConsentEventKind.IMPORTED: "opted in (according to the imported list)",
    ConsentEventKind.GRANTED: "opted in",
    ConsentEventKind.CONFIRMED: "confirmed from the mailbox",
    ConsentEventKind.ASKED: "was asked",
    ConsentEventKind.WITHDRAWN: "left",
    ConsentEventKind.PAUSED: "pauses",
    ConsentEventKind.RETRACTED: "taken back, recorded by mistake",
}

# What stands behind an entry, in the order in which it is told.
# `ground` is what the legal basis was called before.
_TOLD = {
    "legal_basis": "",
    "ground": "",
    "wording": "",
    "why": "",
    "file": "from the file ",
    "page": "on the page ",
    "row": "row ",
}


def evidence_words(evidence: Mapping[str, Any]) -> str:
    """What stands behind an entry of the ledger or of the suppression list; "" where nothing does."""
    told = [f"{words}{evidence[key]}" for key, words in _TOLD.items() if evidence.get(key) not in (None, "")]
    return "; ".join(told)
