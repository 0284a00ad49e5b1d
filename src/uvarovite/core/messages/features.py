"""What a message shows of each recipient: branches, fallbacks, lists, extremes, scripts.

One pass over all recipients runs the programs of a letter without writing anything, and notes which features each of them
has. Proofs and the shapes of an audience are chosen from the matrix (core.messages.proofs).
"""

import unicodedata
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from enum import StrEnum

import numpy as np
from babel import Locale
from numpy.typing import NDArray

from uvarovite.core.contacts import Record, Value
from uvarovite.core.inlay import InlayContext
from uvarovite.core.inlay.program import Around, Either, Own, Program, Repeat, items_of
from uvarovite.core.language import Span
from uvarovite.core.messages.letter import Letter
from uvarovite.core.values import Money


class FeatureKind(StrEnum):
    """What can differ between two people's messages."""

    BRANCH = "branch"
    FALLBACK = "fallback"
    BLANK = "blank"
    LIST_EMPTY = "list_empty"
    LIST_ONE = "list_one"
    LIST_MANY = "list_many"
    LONGEST = "longest"
    SHORTEST = "shortest"
    LARGEST = "largest"
    SMALLEST = "smallest"
    NEGATIVE = "negative"
    ZERO = "zero"
    PAST = "past"
    SCRIPT = "script"
    LOCALE = "locale"
    LONGEST_SUBJECT = "longest_subject"


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """Something that some messages show and others do not.

    `part` and `span` say where its inlay stands, "" where it is about the whole; `about` is the field or the list; `which`
    the arm's condition, the script, the locale; `letter` the language of the words where there are several. Of a branch for everybody else `about` is whom it is not for.
    """

    kind: FeatureKind
    part: str = ""
    span: Span | None = None
    about: str = ""
    which: str = ""
    letter: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Features:
    """`has[r, f]`: recipient r shows feature f. Only features that somebody shows are there."""

    features: tuple[Feature, ...]
    has: NDArray[np.bool_]
    letter: str = ""


# So many sizes of values are kept for each place and locale.
_REMEMBERED = 4_096
# Notes for a person which features are seen, and for each own value how long it is, and its number where it is one.
_Note = Callable[[Record, InlayContext, set[int], list[float], list[float]], None]


class _Plan:
    """The features that a letter can show, by number, and the steps that find them."""

    def __init__(self) -> None:
        self.numbers: dict[Feature, int] = {}
        self.owns: dict[tuple[str, Span, str], int] = {}
        self.places: list[Own] = []

    def number(self, kind: FeatureKind, part: str, span: Span, about: str, which: str = "") -> int:
        """The number of a feature. What stands in the HTML and in the text is one."""
        feature = Feature(kind=kind, part=part, span=span, about=about, which=which)
        return self.numbers.setdefault(feature, len(self.numbers))

    def notes(self, program: Program) -> list[_Note]:
        """The steps of a program."""
        found: list[_Note] = []
        for op in program:
            match op:
                case Own():
                    found.append(self._own(op))
                case Either():
                    found.append(self._either(op))
                case Repeat():
                    found.append(self._repeat(op))
                case Around(before=before, inner=inner, behind=behind):
                    found += self.notes((*before, *inner, *behind))
        return found

    def _own(self, op: Own) -> _Note:
        kind = FeatureKind.FALLBACK if op.fallback else FeatureKind.BLANK
        blank = self.number(kind, op.part, op.span, op.name)
        past = self.number(FeatureKind.PAST, op.part, op.span, op.name)
        place = self.owns.setdefault((op.part, op.span, op.name), len(self.owns))
        if place == len(self.places):
            self.places.append(op)
        show, value = op.show, op.value
        # What comes back is shown once for each locale; hashing one takes longer than all the rest.
        shown_sizes: dict[int, tuple[Locale, dict[Value, int]]] = {}

        def size(found: Value, context: InlayContext) -> int:
            if isinstance(found, str):
                return len(found)
            if not op.is_constant:
                return len(show(found, context))
            locale = context.locale
            known = shown_sizes.get(id(locale)) or shown_sizes.setdefault(id(locale), (locale, {}))
            if (told := known[1].get(found)) is None:
                if len(known[1]) >= _REMEMBERED:
                    known[1].clear()
                told = known[1][found] = len(show(found, context))
            return told

        def own(
            record: Record, context: InlayContext, seen: set[int], sizes: list[float], numbers: list[float]
        ) -> None:
            found = value(record, context)
            if found is None:
                seen.add(blank)
                return
            if type(found) is date:
                if found < context.clock.today:
                    seen.add(past)
            elif isinstance(found, Decimal):
                numbers[place] = float(found)
            elif isinstance(found, Money):
                numbers[place] = float(found.amount)
            # Of the records of a list the longest counts.
            long = size(found, context)
            sizes[place] = max(long, sizes[place]) if sizes[place] == sizes[place] else long

        return own

    def _either(self, op: Either) -> _Note:
        # What is for everybody else is told by those whom it is not for.
        but = " or ".join(filter(None, op.words))
        arms = [
            (
                condition,
                self.number(FeatureKind.BRANCH, op.part, op.span, "" if words else but, words),
                self.notes(body),
            )
            for (condition, body), words in zip(op.arms, op.words, strict=True)
        ]
        none = None if op.arms[-1][0] is None else self.number(FeatureKind.BRANCH, op.part, op.span, but, "")

        def either(
            record: Record, context: InlayContext, seen: set[int], sizes: list[float], numbers: list[float]
        ) -> None:
            for condition, number, notes in arms:
                if condition is None or condition(record, context.clock):
                    seen.add(number)
                    for note in notes:
                        note(record, context, seen, sizes, numbers)
                    return
            if none is not None:
                seen.add(none)

        return either

    def _repeat(self, op: Repeat) -> _Note:
        kinds = (FeatureKind.LIST_EMPTY, FeatureKind.LIST_ONE, FeatureKind.LIST_MANY)
        counted = [self.number(kind, op.part, op.span, op.listed) for kind in kinds]
        body, otherwise, prefix = self.notes(op.body), self.notes(op.otherwise), f"{op.variable}."

        def repeat(
            record: Record, context: InlayContext, seen: set[int], sizes: list[float], numbers: list[float]
        ) -> None:
            items = items_of(record.get(op.listed), op.order)
            seen.add(counted[min(len(items), 2)])
            for note in otherwise if not items else ():
                note(record, context, seen, sizes, numbers)
            for item in items:
                inner = {**record, **{prefix + key: value for key, value in item.items()}}
                for note in body:
                    note(inner, context, seen, sizes, numbers)

        return repeat


def features_of(letter_for: Callable[[Record], Letter], recipients: Iterable[tuple[Record, InlayContext]]) -> Features:
    """The features of the letters of all recipients, in their order; each gets the letter in their language.

    The clock and the locale are those of the context.
    """
    finders: dict[int, _Finder] = {}
    which: list[tuple[int, int]] = []
    for record, context in recipients:
        letter = letter_for(record)
        finder = finders.get(id(letter))
        if finder is None:
            finder = finders[id(letter)] = _Finder(letter)
        which.append((id(letter), finder.add(record, context)))
    found = {key: finder.found() for key, finder in finders.items()}
    if len(found) < 2:
        return next(iter(found.values()), Features(features=(), has=np.zeros((0, 0), dtype=np.bool_)))
    return _together(found, which)


# What is about a person, and the same in every language of the words.
_OF_PEOPLE = frozenset({FeatureKind.SCRIPT, FeatureKind.LOCALE})


def _together(found: Mapping[int, Features], which: Sequence[tuple[int, int]]) -> Features:
    """The features of letters in several languages: what stands in each is to be seen in each."""

    def named(one: Features) -> list[Feature]:
        return [
            feature if feature.kind in _OF_PEOPLE else replace(feature, letter=one.letter) for feature in one.features
        ]

    places: dict[Feature, int] = {}
    for one in found.values():
        for feature in named(one):
            places.setdefault(feature, len(places))
    has = np.zeros((len(which), len(places)), dtype=np.bool_)
    for letter, one in found.items():
        rows = [row for row, (of, _) in enumerate(which) if of == letter]
        has[np.ix_(rows, [places[feature] for feature in named(one)])] = one.has
    return Features(features=tuple(places), has=has)


class _Finder:
    """Finds the features of one letter, a recipient after another."""

    def __init__(self, letter: Letter) -> None:
        self._letter = letter
        self._plan = _Plan()
        self._notes = self._plan.notes((*letter.subject_program, *letter.html))
        self._rows: list[int] = []
        self._columns: list[int] = []
        self._sizes: list[list[float]] = []
        self._numbers: list[list[float]] = []
        self._subjects: list[int] = []
        self._absent = [float("nan")] * len(self._plan.places)

    def add(self, record: Record, context: InlayContext) -> int:
        """Look at one more recipient; their row."""
        row, plan = len(self._subjects), self._plan
        seen: set[int] = set()
        size, number = self._absent.copy(), self._absent.copy()
        for note in self._notes:
            note(record, context, seen, size, number)
        for kind, which in ((FeatureKind.SCRIPT, _script(record)), (FeatureKind.LOCALE, str(context.locale))):
            if which:
                seen.add(plan.numbers.setdefault(Feature(kind=kind, which=which), len(plan.numbers)))
        self._rows += [row] * len(seen)
        self._columns += seen
        self._sizes.append(size)
        self._numbers.append(number)
        self._subjects.append(len(self._letter.subject(record, context)))
        return row

    def found(self) -> Features:
        """Everything that was found."""
        people, plan = len(self._subjects), self._plan
        has = np.zeros((people, len(plan.numbers)), dtype=np.bool_)
        has[self._rows, self._columns] = True
        found = [*zip(plan.numbers, has.T, strict=True)]
        found += _extremes(plan.places, np.array(self._sizes), np.array(self._numbers))
        length = np.array(self._subjects)
        if people > 1 and length.max() > length.min():
            found.append((Feature(kind=FeatureKind.LONGEST_SUBJECT, part="subject"), length == length.max()))
        shown = [(feature, column) for feature, column in found if column.any()]
        matrix = np.column_stack([column for _, column in shown]) if shown else np.zeros((people, 0), dtype=np.bool_)
        return Features(features=tuple(feature for feature, _ in shown), has=matrix, letter=self._letter.language)


def _extremes(
    owns: Sequence[Own], sizes: NDArray[np.float64], numbers: NDArray[np.float64]
) -> Iterable[tuple[Feature, NDArray[np.bool_]]]:
    """Whose value is the longest, the shortest, the largest, the smallest, where they differ; below zero, and zero."""
    for place, op in enumerate(owns):
        for values, most, least in (
            (sizes, FeatureKind.LONGEST, FeatureKind.SHORTEST),
            (numbers, FeatureKind.LARGEST, FeatureKind.SMALLEST),
        ):
            column = values[:, place] if len(values) else np.zeros(0)
            there = column[~np.isnan(column)]
            if len(there) and there.max() > there.min():
                for kind, extreme in ((most, there.max()), (least, there.min())):
                    yield Feature(kind=kind, part=op.part, span=op.span, about=op.name), column == extreme
        if len(numbers):
            column = numbers[:, place]
            for kind, holds in ((FeatureKind.NEGATIVE, column < 0), (FeatureKind.ZERO, column == 0)):
                yield Feature(kind=kind, part=op.part, span=op.span, about=op.name), holds


# The first word of a letter's name in Unicode, as people call the script.
_SCRIPTS = {"CJK": "Chinese or Japanese", "HIRAGANA": "Japanese", "KATAKANA": "Japanese", "HANGUL": "Korean"}


def _script(record: Record) -> str:
    """The script of a person's name, other than plain Latin: "Latin with accents", "Greek", "Arabic" …; "" for plain."""
    name = "".join(str(record.get(key) or "") for key in ("first_name", "last_name"))
    if name.isascii():
        return ""
    letter = next((sign for sign in name if not sign.isascii() and sign.isalpha()), None)
    if letter is None:
        return ""
    script = unicodedata.name(letter, "another").split(" ", 1)[0]
    return "Latin with accents" if script == "LATIN" else _SCRIPTS.get(script, script.capitalize())
