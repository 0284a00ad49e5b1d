"""What a message part becomes for a place: stretches that never change, escaped for it, and what is worked out for each.

A program is made once for a message. It runs for a person by the closures that `compile_program` makes of it: constant
stretches that follow each other are one, and a person costs only what is theirs.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from uvarovite.core.contacts import Record
from uvarovite.core.expressions import Predicate
from uvarovite.core.inlay.escaping import Escape
from uvarovite.core.inlay.values import Evaluate, InlayContext, as_kept
from uvarovite.core.language import Span


@dataclass(frozen=True, slots=True, kw_only=True)
class Fixed:
    """The same for everybody, escaped."""

    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Own:
    """A person's own. `show` gives it as it is read, None where it is blank; `fallback` stands in, escaped already.

    `name` and `span` say what it is and where it stands in its `part`; `value` gives it before it is shown.
    """

    show: Callable[[Record, InlayContext], str | None]
    value: Evaluate
    fallback: str
    escape: Escape
    name: str
    span: Span
    part: str = ""
    is_marked: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Either:
    """The first arm whose condition holds; None holds for everybody. `words` say each condition, `span` is the whole of it."""

    arms: tuple[tuple[Predicate | None, "Program"], ...]
    words: tuple[str, ...]
    span: Span
    part: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeat:
    """`body` for each record of a list, whose parts are seen as `variable.part`; `otherwise` for whoever has none.

    A record's place in the list, from 0, stands under `variable.`, which no field can be called.
    """

    listed: str
    variable: str
    order: str | None
    body: "Program"
    otherwise: "Program"
    span: Span
    part: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """`before` and `behind` stand around `inner` where anything but blanks is `read` in it; else all three are left out."""

    before: "Program"
    inner: "Program"
    behind: "Program"
    read: Callable[[str], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Special:
    """What another room adds to the language: it writes for a person what `write` gives, escaped already."""

    write: Callable[[Record, InlayContext], str]


Op = Fixed | Own | Either | Repeat | Around | Special
Program = tuple[Op, ...]
Step = Callable[[Record, InlayContext, list[str]], None]
# What a person's own becomes for the lens; then whether its fallback stood in, and the value as it is kept, "" for none.
Mark = Callable[[str, Own, bool, str], str]
# What becomes of a text before it is written: a constant one once, a person's own each time.
Encode = Callable[[str], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoding:
    """How what is written is encoded; `mark` marks what is a person's own."""

    fixed: Encode
    own: Encode
    mark: Mark | None = None


# Short texts come back, and so many of them are kept for each place.
_SHORT, _REMEMBERED = 100, 2_048


def as_it_is(text: str) -> str:
    """The text."""
    return text


PLAINLY = Encoding(fixed=as_it_is, own=as_it_is)


def joined(program: Iterable[Op]) -> Iterator[Op]:
    """The program with neighbouring constants made one, and empty ones gone."""
    waiting: list[str] = []
    for op in program:
        if isinstance(op, Fixed):
            waiting.append(op.text)
            continue
        if text := "".join(waiting):
            yield Fixed(text=text)
        waiting.clear()
        yield op
    if text := "".join(waiting):
        yield Fixed(text=text)


def compile_program(program: Program, encoding: Encoding = PLAINLY) -> Step:
    """A closure that writes the program for a person behind what is in a list already."""
    steps = [_step(op, encoding) for op in joined(program)]
    if len(steps) == 1:
        return steps[0]

    def run(record: Record, context: InlayContext, out: list[str]) -> None:
        for step in steps:
            step(record, context, out)

    return run


def placed(program: Program, part: str) -> Program:
    """The program with the part that it stands in, where none is said yet."""
    return tuple(_placed(op, part) for op in program)


def _placed(op: Op, part: str) -> Op:
    match op:
        case Own(part="") | Repeat(part="") | Either(part=""):
            inner: dict[str, Any] = {"part": part}
            if isinstance(op, Either):
                inner["arms"] = tuple((condition, placed(body, part)) for condition, body in op.arms)
            elif isinstance(op, Repeat):
                inner |= {"body": placed(op.body, part), "otherwise": placed(op.otherwise, part)}
            return replace(op, **inner)
        case _:
            return op


def run_program(program: Program, encoding: Encoding = PLAINLY) -> Callable[[Record, InlayContext], str]:
    """A function that gives the program's text for a person."""
    step = compile_program(program, encoding)

    def run(record: Record, context: InlayContext) -> str:
        out: list[str] = []
        step(record, context, out)
        return "".join(out)

    return run


def _step(op: Op, encoding: Encoding) -> Step:
    match op:
        case Fixed(text=text):
            encoded = encoding.fixed(text)
            return lambda record, context, out: out.append(encoded)
        case Own():
            return _own(op, encoding)
        case Either(arms=arms):
            return _either([(condition, compile_program(body, encoding)) for condition, body in arms])
        case Repeat():
            return _repeat(op, compile_program(op.body, encoding), compile_program(op.otherwise, encoding))
        case Around():
            return _around(op, encoding)
        case Special(write=write):
            own = encoding.own
            return lambda record, context, out: out.append(own(write(record, context)))


def _own(op: Own, encoding: Encoding) -> Step:
    show, escape, encode, mark = op.show, op.escape, encoding.own, encoding.mark
    if mark is not None and op.is_marked:

        def marked(record: Record, context: InlayContext, out: list[str]) -> None:
            text = show(record, context)
            shown = op.fallback if text is None else escape(text)
            out.append(mark(shown, op, text is None, as_kept(op.value(record, context))))

        return marked
    fallback = encode(op.fallback) if op.fallback else ""

    # What comes back for many people (a town, an amount, a day) is written once.
    written: dict[str, str] = {}

    def own(record: Record, context: InlayContext, out: list[str]) -> None:
        text = show(record, context)
        if text is None:
            out.append(fallback)
            return
        told = written.get(text)
        if told is None:
            told = encode(escape(text))
            if len(text) <= _SHORT:
                if len(written) >= _REMEMBERED:
                    written.clear()
                written[text] = told
        out.append(told)

    return own


def _either(arms: list[tuple[Predicate | None, Step]]) -> Step:
    def either(record: Record, context: InlayContext, out: list[str]) -> None:
        for condition, step in arms:
            if condition is None or condition(record, context.clock):
                step(record, context, out)
                return

    return either


def _repeat(op: Repeat, body: Step, otherwise: Step) -> Step:
    key, prefix, order = op.listed, f"{op.variable}.", op.order

    def repeat(record: Record, context: InlayContext, out: list[str]) -> None:
        items = items_of(record.get(key), order)
        if not items:
            otherwise(record, context, out)
        for place, item in enumerate(items):
            seen: dict[str, Any] = {**record, prefix: place}
            for part, value in item.items():
                seen[prefix + part] = value
            body(seen, context, out)

    return repeat


def _around(op: Around, encoding: Encoding) -> Step:
    inner = compile_program(op.inner, Encoding(fixed=as_it_is, own=as_it_is, mark=encoding.mark))
    before, behind = compile_program(op.before, encoding), compile_program(op.behind, encoding)
    encode, read = encoding.own, op.read

    def around(record: Record, context: InlayContext, out: list[str]) -> None:
        written: list[str] = []
        inner(record, context, written)
        text = "".join(written)
        if read(text).strip():
            before(record, context, out)
            out.append(encode(text))
            behind(record, context, out)

    return around


def items_of(items: object, order: str | None) -> list[Mapping[str, Any]]:
    """The records of a list, by a part where one is said; those without it last."""
    listed = list(items) if isinstance(items, tuple) else []
    if order is None:
        return listed
    return sorted(listed, key=lambda item: (item.get(order) is None, _rank(item.get(order))))


def _rank(value: Any) -> tuple[Any, ...]:
    # Amounts of two currencies, left from before a field was changed, stand apart.
    if value is None:
        return ()
    if hasattr(value, "currency"):
        return (value.currency, value.amount)
    return (value.casefold(),) if isinstance(value, str) else (value,)
