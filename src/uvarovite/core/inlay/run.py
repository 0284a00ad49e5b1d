"""The closures that a program runs by: constant stretches are written once for all, a person costs only what is theirs.

A constant stretch goes with what it stands behind, so that there are half as many steps. What comes back for many people (a
town, an amount, a day) is shown, escaped and encoded once for each place; Babel works each out anew, and a letter has many.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Any, NamedTuple

from babel import Locale

from uvarovite.core.contacts import Record
from uvarovite.core.expressions import Predicate
from uvarovite.core.inlay.escaping import is_unchanged
from uvarovite.core.inlay.program import (
    Around,
    Either,
    Fixed,
    Mark,
    Op,
    Own,
    Program,
    Repeat,
    Special,
    as_it_is,
    items_of,
    joined,
)
from uvarovite.core.inlay.values import Evaluate, InlayContext, as_kept

Step = Callable[[Record, InlayContext, list[str]], None]
# What becomes of a text before it is written: a constant one once, a person's own each time.
Encode = Callable[[str], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoding:
    """How what is written is encoded; `mark` marks what is a person's own."""

    fixed: Encode
    own: Encode
    mark: Mark | None = None


PLAINLY = Encoding(fixed=as_it_is, own=as_it_is)
_SHORT, _REMEMBERED, _LOCALES = 160, 2_048, 64


def compile_program(program: Program, encoding: Encoding = PLAINLY) -> Step:
    """A closure that writes the program for a person behind what is in a list already."""
    steps: list[Step] = []
    for are_values, group in groupby(_parts(program, encoding), lambda part: isinstance(part, _OneValue)):
        parts: list[Any] = [*group]
        steps += [_values(parts)] if are_values else parts
    if len(steps) == 1:
        return steps[0]

    def run(record: Record, context: InlayContext, out: list[str]) -> None:
        for step in steps:
            step(record, context, out)

    return run


def run_program(program: Program, encoding: Encoding = PLAINLY) -> Callable[[Record, InlayContext], str]:
    """A function that gives the program's text for a person."""
    if (text := _constant(program, encoding)) is not None:
        return lambda record, context: text
    step = compile_program(program, encoding)

    def run(record: Record, context: InlayContext) -> str:
        out: list[str] = []
        step(record, context, out)
        return "".join(out)

    return run


def _constant(program: Program, encoding: Encoding) -> str | None:
    """What a program writes for everybody; None where that differs."""
    ops = [*joined(program)]
    if not ops:
        return ""
    return encoding.fixed(ops[0].text) if len(ops) == 1 and isinstance(ops[0], Fixed) else None


def _parts(program: Program, encoding: Encoding) -> Iterator["_OneValue | Step"]:
    """What is worked out, each with the constant stretch that stands behind it."""
    op: Op | None = None
    for following in joined(program):
        if isinstance(following, Fixed):
            yield _part(op, encoding, encoding.fixed(following.text))
            op = None
        else:
            if op is not None:
                yield _part(op, encoding, "")
            op = following
    if op is not None:
        yield _part(op, encoding, "")


def _part(op: Op | None, encoding: Encoding, behind: str) -> "_OneValue | Step":
    match op:
        case None | Fixed():
            return lambda record, context, out: out.append(behind)
        case Own() if op.is_marked and encoding.mark is not None:
            return _marked(op, encoding.mark, behind)
        case Own():
            return _own(op, encoding.own, behind)
        case Special(number=int()):
            return _OneValue(
                key=None,
                value=_numbered(op, encoding.own),
                write=lambda told, context: told,
                comes_back=False,
                blank="",
                behind=behind,
            )
        case Special(write=write, escape=escape):
            encode = encoding.own
            return _OneValue(
                key=None,
                value=write,
                write=lambda text, context: encode(escape(text)),
                comes_back=op.comes_back,
                blank="",
                behind=behind,
            )
        case Either(arms=arms):
            return _either([(condition, compile_program(body, encoding)) for condition, body in arms], behind)
        case Repeat():
            otherwise = compile_program(op.otherwise, encoding)
            if (of_parts := _of_parts(op.body, f"{op.variable}.", encoding)) is not None:
                return _repeat_parts(op, compile_program(of_parts, encoding), otherwise, behind)
            return _repeat(op, compile_program(op.body, encoding), otherwise, behind)
        case Around():
            return _around(op, encoding, behind)


class _OneValue(NamedTuple):
    """What is written for a value: the field that it is in, or how it is worked out; then what stands `behind` it.

    What `comes_back` is written once for all who have the same value and the same locale.
    """

    key: str | None
    value: Callable[[Record, Any], Any]
    write: Callable[[Any, InlayContext], str]
    comes_back: bool
    blank: str
    behind: str


def _values(ones: Sequence[_OneValue]) -> Step:
    """Values one after another, in one step: this is where the time of a message goes."""
    # By locale, which is kept so that its id stays its own: hashing one takes longer than all the rest.
    by_locale: dict[int, tuple[Locale, list[tuple[Any, ...]]]] = {}

    def values(record: Record, context: InlayContext, out: list[str]) -> None:
        locale, get = context.locale, record.get
        known = by_locale.get(id(locale))
        if known is None:
            if len(by_locale) >= _LOCALES:
                by_locale.clear()
            known = by_locale[id(locale)] = (locale, [(*one, {}) for one in ones])
        for key, value, write, comes_back, blank, behind, written in known[1]:
            found = value(record, context) if key is None else get(key)
            if found is None:
                out += (blank, behind)
                continue
            told = written.get(found)
            if told is None:
                told = write(found, context)
                if comes_back:
                    _remember(written, found, told)
            out += (told, behind)

    return values


def _remember(written: dict[Any, str], by: object, told: str) -> None:
    """Short texts come back, and so many of them are kept for each place."""
    if len(told) <= _SHORT:
        if len(written) >= _REMEMBERED:
            written.clear()
        written[by] = told


def _numbered(op: Special, encode: Encode) -> Callable[[Record, Any], str]:
    number, write, escape = op.number, op.write, op.escape

    def numbered(record: Record, context: Any) -> str:
        told: str | None = context.written.get(number)
        if told is None:
            text = write(record, context)
            escaped = escape(text)
            told = encode(escaped)
            if escaped == text and is_unchanged(text):
                context.written[number] = told
        return told

    return numbered


def _own(op: Own, encode: Encode, behind: str) -> _OneValue:
    value, show, escape = op.value, op.show, op.escape
    blank = encode(op.fallback) if op.fallback else ""
    if op.is_constant:
        return _OneValue(
            op.key, value, lambda found, context: encode(escape(show(found, context))), True, blank, behind
        )

    def shown(record: Record, context: InlayContext) -> str | None:
        found = value(record, context)
        return None if found is None else show(found, context)

    return _OneValue(None, shown, lambda text, context: encode(escape(text)), True, blank, behind)


def _marked(op: Own, mark: Mark, behind: str) -> Step:
    value, show, escape, fallback = op.value, op.show, op.escape, op.fallback

    def marked(record: Record, context: InlayContext, out: list[str]) -> None:
        found = value(record, context)
        shown = fallback if found is None else escape(show(found, context))
        out += (mark(shown, op, found is None, as_kept(found)), behind)

    return marked


def _either(arms: Sequence[tuple[Predicate | None, Step]], behind: str) -> Step:
    def either(record: Record, context: InlayContext, out: list[str]) -> None:
        for condition, step in arms:
            if condition is None or condition(record, context.clock):
                step(record, context, out)
                break
        out.append(behind)

    return either


def _repeat(op: Repeat, body: Step, otherwise: Step, behind: str) -> Step:
    key, prefix, order = op.listed, f"{op.variable}.", op.order
    names = _Names(prefix)

    def repeat(record: Record, context: InlayContext, out: list[str]) -> None:
        items = items_of(record.get(key), order)
        if not items:
            otherwise(record, context, out)
        for place, item in enumerate(items):
            seen: dict[str, Any] = {**record, prefix: place}
            for part, value in item.items():
                seen[names[part]] = value
            body(seen, context, out)
        out.append(behind)

    return repeat


def _repeat_parts(op: Repeat, body: Step, otherwise: Step, behind: str) -> Step:
    """Where nothing but parts of the records is asked for, they need not be put among what else is known of a person."""
    key, order = op.listed, op.order

    def repeat(record: Record, context: InlayContext, out: list[str]) -> None:
        items = items_of(record.get(key), order)
        if not items:
            otherwise(record, context, out)
        for item in items:
            body(item, context, out)
        out.append(behind)

    return repeat


def _of_parts(program: Program, prefix: str, encoding: Encoding) -> Program | None:
    """A program that asks each record of a list itself; None for one that asks for more than its parts."""
    told: list[Op] = []
    for op in program:
        match op:
            case Fixed():
                told.append(op)
            case Own(key=str(key)) if key.startswith(prefix) and not (op.is_marked and encoding.mark):
                part = key.removeprefix(prefix)
                told.append(replace(op, key=part, value=_part_of(part)))
            case Around(before=before, inner=inner, behind=behind):
                parts = [_of_parts(some, prefix, encoding) for some in (before, inner, behind)]
                if any(one is None for one in parts):
                    return None
                told.append(replace(op, before=parts[0] or (), inner=parts[1] or (), behind=parts[2] or ()))
            case _:
                return None
    return tuple(told)


def _part_of(part: str) -> Evaluate:
    return lambda record, context: record.get(part)


class _Names(dict[str, str]):
    """What parts of a record are called where it is repeated."""

    def __init__(self, prefix: str) -> None:
        self._prefix = prefix

    def __missing__(self, part: str) -> str:
        name = self[part] = self._prefix + part
        return name


def _around(op: Around, encoding: Encoding, behind: str) -> "_OneValue | Step":
    encode, read = encoding.own, op.read
    before, after = _constant(op.before, encoding), _constant(op.behind, encoding)
    match op.inner:
        case (Own() as inner,) if before is not None and after is not None and not (inner.is_marked and encoding.mark):
            # Whether anything stands between them is known by the value itself.
            return _own(inner, lambda text: f"{before}{encode(text)}{after}" if read(text).strip() else "", behind)
    return _around_any(op, encoding, behind)


def _around_any(op: Around, encoding: Encoding, behind: str) -> Step:
    inner = run_program(op.inner, Encoding(fixed=as_it_is, own=as_it_is, mark=encoding.mark))
    before, after = compile_program(op.before, encoding), compile_program(op.behind, encoding)
    encode, read = encoding.own, op.read
    frame = _constant(op.before, encoding), _constant(op.behind, encoding)
    if frame[0] is not None and frame[1] is not None:
        first, last = frame
        # What a condition chooses comes back for many people, too.
        written: dict[str, str] = {}

        def framed(record: Record, context: InlayContext, out: list[str]) -> None:
            text = inner(record, context)
            told = written.get(text)
            if told is None:
                told = f"{first}{encode(text)}{last}" if read(text).strip() else ""
                _remember(written, text, told)
            out += (told, behind)

        return framed

    def around(record: Record, context: InlayContext, out: list[str]) -> None:
        text = inner(record, context)
        if read(text).strip():
            before(record, context, out)
            out.append(encode(text))
            after(record, context, out)
        out.append(behind)

    return around
