"""Consent in words, for whoever asks what is known about them."""

from collections.abc import Mapping

from uvarovite.core.consent.evidence import ConsentEvidence
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
_TOLD = {
    "legal_basis": "",
    "wording": "",
    "why": "",
    "file": "from the file ",
    "page": "on the page ",
    "row": "row ",
}


def evidence_words(evidence: ConsentEvidence) -> str:
    """What stands behind an entry of the ledger or of the suppression list; "" where nothing does."""
    known = evidence.model_dump(include=set(_TOLD), exclude_defaults=True)
    told = [f"{words}{known[key]}" for key, words in _TOLD.items() if known.get(key, "") != ""]
    return "; ".join(told)
