"""What a message part becomes for a place: stretches that never change, escaped for it, and what is worked out for each.

A program is made once for a message; what it runs by for a person stands in core.inlay.run.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from uvarovite.core.contacts import Record
from uvarovite.core.expressions import Predicate
from uvarovite.core.inlay.escaping import Escape
from uvarovite.core.inlay.values import Evaluate, InlayContext
from uvarovite.core.language import Span


def as_it_is(text: str) -> str:
    """The text."""
    return text


# A value that is not blank, as text.
Show = Callable[[Any, InlayContext], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fixed:
    """The same for everybody, escaped."""

    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Own:
    """A person's own `value`, which `show` gives as it is read; where it is blank, `fallback` stands in, escaped already.

    `name` and `span` say what it is and where it stands in its `part`; `key` is set where it is a field's value as it is. With
    `is_constant` the same value reads the same for everybody with the same locale.
    """

    value: Evaluate
    key: str | None
    show: Show
    is_constant: bool
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
    """What another room adds to the language: what `write` gives for a person, with the context of that room.

    With `comes_back` many people have the same. What has a `number` stands in a letter more than once: the context keeps it
    under that in `written`, where no escape changes it. `is_link`: it tells the context where a link leads.
    """

    write: Callable[[Record, Any], str]
    escape: Escape = as_it_is
    comes_back: bool = False
    number: int | None = None
    is_link: bool = False


Op = Fixed | Own | Either | Repeat | Around | Special
Program = tuple[Op, ...]
# What a person's own becomes for the lens; then whether its fallback stood in, and the value as it is kept, "" for none.
Mark = Callable[[str, Own, bool, str], str]


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


def with_links(program: Program) -> Program:
    """Only the links, and what decides whether they are written, or how often; the rest of the text is left out."""
    return tuple(kept for op in program if (kept := _with_links(op)) is not None)


def _with_links(op: Op) -> Op | None:
    match op:
        case Special(is_link=is_link):
            return op if is_link else None
        case Either():
            arms = tuple((condition, with_links(body)) for condition, body in op.arms)
            return replace(op, arms=arms) if any(body for _, body in arms) else None
        case Repeat():
            body, otherwise = with_links(op.body), with_links(op.otherwise)
            return replace(op, body=body, otherwise=otherwise) if body or otherwise else None
        case Around():
            # What is read in its inside decides about what stands around it, so it stays whole.
            return op if any(with_links(part) for part in (op.before, op.inner, op.behind)) else None
        case _:
            return None


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
