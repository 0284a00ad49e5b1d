"""Sentences made of a code's words and its facts: what is stored is the code and the facts, never the sentence."""

from collections.abc import Mapping
from dataclasses import dataclass
from string import Formatter
from typing import ClassVar


def facts_in(words: str) -> frozenset[str]:
    """The facts that words ask for: `{people:contact|contacts}` asks for `people`, a number with its noun."""
    return frozenset(name for _, name, _, _ in Formatter().parse(words) if name)


def sentence(words: str, facts: Mapping[str, object]) -> str:
    """The words with their facts; one that is not there is "?"."""
    return words.format_map({name: _Said(facts.get(name, "?")) for name in facts_in(words)})


def sentence_of(table: Mapping[str, str], code: str, facts: Mapping[str, object]) -> str:
    """The words of a code in its table. Where several things are behind one code, `how`, one of the facts, says which."""
    how = facts.get("how")
    return sentence(table[f"{code}.{how}" if how else code], facts)


@dataclass(frozen=True, slots=True, kw_only=True)
class Coded:
    """What is kept of something that is said: a code of the table `words`, and its facts."""

    words: ClassVar[Mapping[str, str]]
    code: str
    facts: Mapping[str, str | int]

    @property
    def message(self) -> str:
        """It in words."""
        return sentence_of(self.words, self.code, self.facts)


class CodedFault(Exception):
    """Something that cannot be used, by a code of the table `words` and its facts. Whose doing: a subclass says."""

    words: ClassVar[Mapping[str, str]]

    def __init__(self, code: str, **facts: str | int) -> None:
        self.code, self.facts = code, facts
        self.message = sentence_of(self.words, code, facts)
        super().__init__(self.message)


class _Said:
    """A fact in a sentence: numbers as people write them, with the noun that goes with them."""

    def __init__(self, fact: object) -> None:
        self._fact = fact

    def __format__(self, nouns: str) -> str:
        number = f"{self._fact:,}" if isinstance(self._fact, int) else str(self._fact)
        if not nouns:
            return number
        one, many = nouns.split("|")
        return f"{number} {one if self._fact == 1 else many}"
