"""What a relay's answer means, from its reply code (RFC 5321 section 4.2) and enhanced status code (RFC 3463).

The enhanced code says more and decides where it is there and agrees with the reply code's first digit.
"""

import re
from dataclasses import dataclass
from enum import StrEnum


class AnswerKind(StrEnum):
    """What follows for the delivery, and whose matter it is."""

    ACCEPTED = "accepted"
    TRY_LATER = "try_later"
    REFUSED_ADDRESS = "refused_address"
    REFUSED_SENDER = "refused_sender"
    CONNECTION = "connection"


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """One answer. `code` is 0 and `text` our own words when the relay said nothing (a broken connection)."""

    kind: AnswerKind
    code: int
    enhanced: str | None
    text: str
    words: str


_ENHANCED = re.compile(r"\s*([245]\.\d{1,3}\.\d{1,3})(?=\s|$)\s*")

# (first digit of the reply, subject.detail of RFC 3463) -> what it means, in words; None matches any detail.
_MEANINGS: tuple[tuple[int, str, AnswerKind, str], ...] = (
    (5, "1.", AnswerKind.REFUSED_ADDRESS, "unknown address"),
    (5, "2.2", AnswerKind.TRY_LATER, "mailbox full"),
    (5, "2.", AnswerKind.REFUSED_ADDRESS, "mailbox disabled"),
    (5, "3.", AnswerKind.REFUSED_SENDER, "the receiving system cannot take this message"),
    (5, "5.", AnswerKind.REFUSED_SENDER, "the relay does not understand us"),
    (5, "6.7", AnswerKind.REFUSED_ADDRESS, "the address needs SMTPUTF8, which is not offered"),
    (5, "7.", AnswerKind.REFUSED_SENDER, "refused by policy"),
    (4, "2.2", AnswerKind.TRY_LATER, "mailbox full"),
    (4, "7.1", AnswerKind.TRY_LATER, "greylisted: told to come back later"),
    (4, "7.", AnswerKind.TRY_LATER, "rate limit: told to slow down"),
    (4, "3.", AnswerKind.TRY_LATER, "the receiving system is busy"),
)

# Where there is no enhanced code, the reply code alone must do (RFC 5321 section 4.2.3).
_BY_CODE: dict[int, tuple[AnswerKind, str]] = {
    421: (AnswerKind.TRY_LATER, "the receiving system is closing the connection"),
    450: (AnswerKind.TRY_LATER, "mailbox not available now"),
    451: (AnswerKind.TRY_LATER, "the receiving system is busy"),
    452: (AnswerKind.TRY_LATER, "too many messages at once"),
    530: (AnswerKind.REFUSED_SENDER, "the relay wants a log-in"),
    535: (AnswerKind.REFUSED_SENDER, "the relay refused the log-in"),
    550: (AnswerKind.REFUSED_ADDRESS, "unknown address"),
    551: (AnswerKind.REFUSED_ADDRESS, "the person is not there any more"),
    552: (AnswerKind.TRY_LATER, "mailbox full"),
    553: (AnswerKind.REFUSED_ADDRESS, "the address is not allowed"),
    554: (AnswerKind.REFUSED_SENDER, "refused by policy"),
}


def split_answer(text: str) -> tuple[str | None, str]:
    """(enhanced code, the rest) of a reply's text; the code is None where the text does not begin with one."""
    found = _ENHANCED.match(text)
    return (found[1], text[found.end() :]) if found else (None, text)


def classify_answer(code: int, text: str) -> Answer:
    """What a reply to RCPT or to the message's end means. `text` is as the relay wrote it, without the code."""
    enhanced, _ = split_answer(text)
    kind, words = _meaning(code, enhanced)
    return Answer(kind=kind, code=code, enhanced=enhanced, text=text, words=words)


def no_answer(words: str, detail: str) -> Answer:
    """The relay could not be reached, or went away: nothing was said about the message."""
    return Answer(kind=AnswerKind.CONNECTION, code=0, enhanced=None, text=detail, words=words)


def _meaning(code: int, enhanced: str | None) -> tuple[AnswerKind, str]:
    first = code // 100
    if first == 2:
        return AnswerKind.ACCEPTED, "accepted"
    if enhanced and int(enhanced[0]) == first:
        rest = enhanced[2:]
        for digit, prefix, kind, words in _MEANINGS:
            if digit == first and (rest == prefix or (prefix.endswith(".") and rest.startswith(prefix))):
                return kind, words
    if code in _BY_CODE:
        return _BY_CODE[code]
    if first == 4:
        return AnswerKind.TRY_LATER, "told to come back later"
    if first == 5:
        return AnswerKind.REFUSED_SENDER, "refused"
    return AnswerKind.CONNECTION, "an answer that is none"
