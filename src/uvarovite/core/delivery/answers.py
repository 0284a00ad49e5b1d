"""What a relay's answer means, from its reply code (RFC 5321 section 4.2) and enhanced status code (RFC 3463).

The enhanced code says more and decides where it is there and agrees with the reply code's first digit.
"""

import re
from collections.abc import Mapping
from enum import StrEnum
from typing import NamedTuple


class AnswerKind(StrEnum):
    """What follows for the delivery, and whose matter it is."""

    ACCEPTED = "accepted"
    TRY_LATER = "try_later"
    REFUSED_ADDRESS = "refused_address"
    REFUSED_SENDER = "refused_sender"
    CONNECTION = "connection"


class Stage(StrEnum):
    """What was refused: who it is from, who it is to, or the message itself."""

    MAIL = "mail"
    RCPT = "rcpt"
    TEXT = "text"


class Meaning(StrEnum):
    """What an answer means, or why there is none."""

    ACCEPTED = "accepted"
    UNKNOWN_ADDRESS = "unknown_address"
    MAILBOX_FULL = "mailbox_full"
    MAILBOX_DISABLED = "mailbox_disabled"
    CANNOT_TAKE_IT = "cannot_take_it"
    NOT_UNDERSTOOD = "not_understood"
    NEEDS_SMTPUTF8 = "needs_smtputf8"
    SENDER_ADDRESS = "sender_address"
    SENDER_REFUSED = "sender_refused"
    NOT_ROUTED = "not_routed"
    POLICY = "policy"
    GREYLISTED = "greylisted"
    SLOW_DOWN = "slow_down"
    BUSY = "busy"
    CLOSING = "closing"
    NOT_NOW = "not_now"
    TOO_MANY = "too_many"
    WANTS_LOG_IN = "wants_log_in"
    LOG_IN_REFUSED = "log_in_refused"
    GONE = "gone"
    NOT_ALLOWED = "not_allowed"
    LATER = "later"
    REFUSED = "refused"
    NO_ANSWER = "no_answer"
    BROKE_BEFORE = "broke_before"
    BROKE_AFTER = "broke_after"
    UNREACHABLE = "unreachable"
    NOT_MADE = "not_made"
    WORKER_STOPPED = "worker_stopped"
    DOMAIN_LIMIT = "domain_limit"
    DOMAIN_SLOW = "domain_slow"
    READERS_CLOCK = "readers_clock"


MEANING_WORDS: Mapping[Meaning, str] = {
    Meaning.ACCEPTED: "accepted",
    Meaning.UNKNOWN_ADDRESS: "unknown address",
    Meaning.MAILBOX_FULL: "mailbox full",
    Meaning.MAILBOX_DISABLED: "mailbox disabled",
    Meaning.CANNOT_TAKE_IT: "the receiving system cannot take this message",
    Meaning.NOT_UNDERSTOOD: "the relay does not understand us",
    Meaning.NEEDS_SMTPUTF8: "the address needs SMTPUTF8, which is not offered",
    Meaning.SENDER_ADDRESS: "the sender's address is not taken",
    Meaning.SENDER_REFUSED: "the relay takes no mail from this sender",
    Meaning.NOT_ROUTED: "the relay finds no way to the receiving system",
    Meaning.POLICY: "refused by policy",
    Meaning.GREYLISTED: "greylisted: told to come back later",
    Meaning.SLOW_DOWN: "rate limit: told to slow down",
    Meaning.BUSY: "the receiving system is busy",
    Meaning.CLOSING: "the receiving system is closing the connection",
    Meaning.NOT_NOW: "mailbox not available now",
    Meaning.TOO_MANY: "too many messages at once",
    Meaning.WANTS_LOG_IN: "the relay wants a log-in",
    Meaning.LOG_IN_REFUSED: "the relay refused the log-in",
    Meaning.GONE: "the person is not there any more",
    Meaning.NOT_ALLOWED: "the address is not allowed",
    Meaning.LATER: "told to come back later",
    Meaning.REFUSED: "refused",
    Meaning.NO_ANSWER: "an answer that is none",
    Meaning.BROKE_BEFORE: "the connection broke before the message was handed over",
    Meaning.BROKE_AFTER: "the connection broke before the answer",
    Meaning.UNREACHABLE: "the relay could not be reached",
    Meaning.NOT_MADE: "the message could not be made",
    Meaning.WORKER_STOPPED: "the worker stopped before the answer",
    Meaning.DOMAIN_LIMIT: "wait for the campaign's limit there",
    Meaning.DOMAIN_SLOW: "wait, since we were told there to slow down",
    Meaning.READERS_CLOCK: "wait for the sending window by their own clock",
}


def meaning_words(meaning: str) -> str:
    """A meaning in words. One of another version of ours is said by its code."""
    return MEANING_WORDS[Meaning(meaning)] if meaning in set(Meaning) else meaning.replace("_", " ")


class Answer(NamedTuple):
    """One answer. `code` is 0 and `text` our own words when the relay said nothing (a broken connection)."""

    kind: AnswerKind
    code: int
    enhanced: str | None
    text: str
    meaning: Meaning


_ENHANCED = re.compile(r"([245]\.\d{1,3}\.\d{1,3})(?=\s|$)\s*")

_BEGINS = frozenset("245")

# (first digit of the reply, subject.detail of RFC 3463) -> what follows, and what it means; a prefix that ends with a point matches any detail.
_MEANINGS: tuple[tuple[int, str, AnswerKind, Meaning], ...] = (
    (5, "1.7", AnswerKind.REFUSED_SENDER, Meaning.SENDER_ADDRESS),
    (5, "1.8", AnswerKind.REFUSED_SENDER, Meaning.SENDER_ADDRESS),
    (5, "1.", AnswerKind.REFUSED_ADDRESS, Meaning.UNKNOWN_ADDRESS),
    (5, "2.2", AnswerKind.TRY_LATER, Meaning.MAILBOX_FULL),
    (5, "2.", AnswerKind.REFUSED_ADDRESS, Meaning.MAILBOX_DISABLED),
    (5, "3.", AnswerKind.REFUSED_SENDER, Meaning.CANNOT_TAKE_IT),
    (5, "4.4", AnswerKind.REFUSED_ADDRESS, Meaning.UNKNOWN_ADDRESS),
    (5, "4.", AnswerKind.REFUSED_SENDER, Meaning.NOT_ROUTED),
    (5, "5.", AnswerKind.REFUSED_SENDER, Meaning.NOT_UNDERSTOOD),
    (5, "6.7", AnswerKind.REFUSED_ADDRESS, Meaning.NEEDS_SMTPUTF8),
    (5, "7.", AnswerKind.REFUSED_SENDER, Meaning.POLICY),
    (4, "2.2", AnswerKind.TRY_LATER, Meaning.MAILBOX_FULL),
    (4, "7.1", AnswerKind.TRY_LATER, Meaning.GREYLISTED),
    (4, "7.", AnswerKind.TRY_LATER, Meaning.SLOW_DOWN),
    (4, "3.", AnswerKind.TRY_LATER, Meaning.BUSY),
)

# Where there is no enhanced code, the reply code alone must do (RFC 5321 section 4.2.3).
_BY_CODE: dict[int, tuple[AnswerKind, Meaning]] = {
    421: (AnswerKind.TRY_LATER, Meaning.CLOSING),
    450: (AnswerKind.TRY_LATER, Meaning.NOT_NOW),
    451: (AnswerKind.TRY_LATER, Meaning.BUSY),
    452: (AnswerKind.TRY_LATER, Meaning.TOO_MANY),
    530: (AnswerKind.REFUSED_SENDER, Meaning.WANTS_LOG_IN),
    535: (AnswerKind.REFUSED_SENDER, Meaning.LOG_IN_REFUSED),
    550: (AnswerKind.REFUSED_ADDRESS, Meaning.UNKNOWN_ADDRESS),
    551: (AnswerKind.REFUSED_ADDRESS, Meaning.GONE),
    552: (AnswerKind.TRY_LATER, Meaning.MAILBOX_FULL),
    553: (AnswerKind.REFUSED_ADDRESS, Meaning.NOT_ALLOWED),
    554: (AnswerKind.REFUSED_SENDER, Meaning.POLICY),
}

# RFC 4954 section 6: these are about us, whatever stands behind them.
_OF_LOGGING_IN = (530, 535)


# Control characters but tab and line feed, and bytes that were no UTF-8 (Python holds them as lone surrogates).
_UNKEEPABLE = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff]")
LONGEST_SAID = 2000


def as_kept(said: str, longest: int = LONGEST_SAID) -> str:
    """What somebody else said, as it can be kept and shown: it may be of any bytes, and of a great many."""
    if len(said) <= longest and said.isascii() and said.isprintable():
        return said
    return _UNKEEPABLE.sub("\N{REPLACEMENT CHARACTER}", said)[:longest]


def split_answer(text: str) -> tuple[str | None, str]:
    """(enhanced code, the rest) of a reply's text; the code is None where the text does not begin with one."""
    found = _ENHANCED.match(text) if text[:1] in _BEGINS else None
    return (found[1], text[found.end() :]) if found else (None, text)


def classify_answer(code: int, text: str, stage: Stage = Stage.RCPT) -> Answer:
    """What a reply to MAIL, to RCPT, or to DATA and the message's end means. `text` is as the relay wrote it, without the code."""
    text = as_kept(text)
    enhanced, _ = split_answer(text)
    if code == 250:
        return Answer(AnswerKind.ACCEPTED, code, enhanced, text, Meaning.ACCEPTED)
    kind, meaning = _meaning(code, enhanced)
    if stage is Stage.MAIL:
        kind, meaning = _OF_THE_SENDER.get(meaning, (kind, meaning))
    elif stage is Stage.TEXT and enhanced is None:
        # The address was agreed to; without a word that it is about the address all the same, it is about the message.
        kind, meaning = _OF_THE_TEXT.get(meaning, (kind, meaning))
    return Answer(kind=kind, code=code, enhanced=enhanced, text=text, meaning=meaning)


def no_answer(meaning: Meaning, detail: str) -> Answer:
    """The relay could not be reached, or went away: nothing was said about the message."""
    return Answer(kind=AnswerKind.CONNECTION, code=0, enhanced=None, text=as_kept(detail), meaning=meaning)


# What a meaning of the address is, when what was answered is who the message is from, or the message: never the contact's fault.
_TOO_LARGE = (AnswerKind.REFUSED_SENDER, Meaning.CANNOT_TAKE_IT)
_OF_THE_SENDER: Mapping[Meaning, tuple[AnswerKind, Meaning]] = {
    **dict.fromkeys(
        (
            Meaning.UNKNOWN_ADDRESS, Meaning.MAILBOX_DISABLED, Meaning.GONE, Meaning.NOT_ALLOWED, Meaning.SENDER_ADDRESS,
            Meaning.POLICY, Meaning.REFUSED, Meaning.NOT_UNDERSTOOD,
        ),
        (AnswerKind.REFUSED_SENDER, Meaning.SENDER_REFUSED),
    ),
    Meaning.MAILBOX_FULL: _TOO_LARGE,
}  # fmt: skip
# Refusals that meet whoever comes next as well: they are the relay's matter, and nobody's attempt.
OF_THE_RELAY = frozenset({Meaning.SENDER_REFUSED, Meaning.WANTS_LOG_IN, Meaning.LOG_IN_REFUSED})
_OF_THE_TEXT: Mapping[Meaning, tuple[AnswerKind, Meaning]] = {
    **dict.fromkeys(
        (Meaning.UNKNOWN_ADDRESS, Meaning.GONE, Meaning.NOT_ALLOWED), (AnswerKind.REFUSED_SENDER, Meaning.POLICY)
    ),
    Meaning.MAILBOX_FULL: _TOO_LARGE,
}


def _meaning(code: int, enhanced: str | None) -> tuple[AnswerKind, Meaning]:
    first = code // 100
    if first == 2:
        return AnswerKind.ACCEPTED, Meaning.ACCEPTED
    if code in _OF_LOGGING_IN:
        return _BY_CODE[code]
    if enhanced and int(enhanced[0]) == first:
        rest = enhanced[2:]
        for digit, prefix, kind, meaning in _MEANINGS:
            if digit == first and (rest == prefix or (prefix.endswith(".") and rest.startswith(prefix))):
                return kind, meaning
    if code in _BY_CODE:
        return _BY_CODE[code]
    if first == 4:
        return AnswerKind.TRY_LATER, Meaning.LATER
    if first == 5:
        return AnswerKind.REFUSED_SENDER, Meaning.REFUSED
    return AnswerKind.CONNECTION, Meaning.NO_ANSWER
