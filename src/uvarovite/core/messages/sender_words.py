"""Who a message comes from, as its reader sees it: a sender's name and the address for replies may hold inlays."""

import re
from collections.abc import Callable
from dataclasses import replace

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import (
    InlayContext,
    Place,
    blank_without,
    check_inlay,
    compile_nodes,
    header,
    inserts,
    parse_inlay,
)
from uvarovite.core.inlay.run import run_program
from uvarovite.core.language import LanguageError
from uvarovite.core.messages.snapshot import Letterhead
from uvarovite.core.values import Address, read_address

_IN_HEADER = Place(fixed=header, own=header)
_MOST_CONTEXTS = 256
_INLAY = re.compile(r"@\{[^}]*\}")

Words = Callable[[Record, InlayContext], str]


class SenderWords:
    """A letterhead as each reader sees it; compiled once, then a pure function of a person."""

    def __init__(self, letterhead: Letterhead, fields: FieldMap) -> None:
        self._letterhead = letterhead
        self._name = _compiled(letterhead.from_name, fields)
        self._reply_to = _compiled(letterhead.reply_to or "", fields)
        # By a clock and the languages of reader and words: what few differ in, and many have.
        self._contexts: tuple[Clock | None, dict[tuple[object, str | None], InlayContext]] = (None, {})

    def context(self, record: Record, clock: Clock, language: str | None) -> InlayContext:
        """What the inlays of one person see (Letterhead.context), with the sender's name as that person sees it."""
        known = self._contexts
        if known[0] is not clock:
            known = self._contexts = (clock, {})
        languages = (record.get("language"), language)
        context = known[1].get(languages)
        if context is None:
            context = self._letterhead.context(record, clock, language)
            if len(known[1]) < _MOST_CONTEXTS:
                known[1][languages] = context
        if self._name is None:
            return context
        return replace(context, provided={**context.provided, "sender.name": self.name(record, context)})

    def name(self, record: Record, context: InlayContext) -> str:
        """The name that stands in a person's mailbox."""
        if self._name is None:
            return self._letterhead.from_name
        return " ".join(self._name(record, context).split())

    def reply_to(self, record: Record, context: InlayContext) -> str | None:
        """Where a person's answer goes; None for the sender's own address, also where what is filled in makes none."""
        if self._reply_to is None:
            return self._letterhead.reply_to
        told = self._reply_to(record, context)
        return told if isinstance(read_address(told), Address) else None


def _compiled(source: str, fields: FieldMap) -> Words | None:
    """None for words without inlays, and for those that cannot be read: they stand as they are."""
    if "@{" not in source:
        return None
    try:
        nodes = parse_inlay(source)
        return run_program(compile_nodes(nodes, fields, _IN_HEADER)) if not check_inlay(nodes, fields) else None
    except LanguageError:
        return None


def sender_problem(source: str, fields: FieldMap) -> str | None:
    """What is wrong with the inlays of a sender's name or address for replies, or None."""
    try:
        nodes = parse_inlay(source)
    except LanguageError as fault:
        return fault.problem.message
    if problems := check_inlay(nodes, fields):
        return problems[0].message
    for insert in inserts(nodes):
        names = list(blank_without(insert.value))
        if not all(name in fields for name in names):
            return "Only fields of the contacts can stand here."
        if names and insert.fallback is None:
            return f'Say what stands here for whoever has none: @{{{names[0]} else "…"}}.'
    return None


def reply_to_problem(source: str, fields: FieldMap) -> str | None:
    """What is wrong with an address for replies that holds inlays, or None: where it leads is never a person's own."""
    if problem := sender_problem(source, fields):
        return problem
    filled = _INLAY.sub("x", source)
    if source.rpartition("@")[2] != filled.rpartition("@")[2]:
        return "Behind the @ stands a domain of your own, without inlays."
    return None if isinstance(read_address(filled), Address) else "This is no address once the inlays are filled in."
