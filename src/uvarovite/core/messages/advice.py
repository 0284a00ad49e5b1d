"""What would be better said another way: one row for each piece of advice, with its words. None of it blocks a release.

It looks at the words alone; what is wrong with them stands in core.messages.checks.
"""

import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from babel import Locale

from uvarovite.core.contacts import FieldMap
from uvarovite.core.inlay import Branches, Each, InlayNode, Stretch, parse_inlay
from uvarovite.core.inlay.program import Fixed, Program, joined
from uvarovite.core.messages.blocks import PartKind, WrittenPart
from uvarovite.core.messages.document import Basis, MessageContent, OtherWords, written_parts
from uvarovite.core.messages.footer import LANGUAGES
from uvarovite.core.messages.foreign_places import FOREIGN_PLACE
from uvarovite.core.messages.letter import Letter
from uvarovite.core.messages.passages import source_of
from uvarovite.core.messages.spoken import is_greeting, spoken_in
from uvarovite.core.values.sentences import sentence

Found = Iterator[tuple[str, Mapping[str, str | int]]]

# Mail programs on telephones show some 40 characters of a subject, others some 60.
_LONG_SUBJECT = 60
# Some mail programs cut what is longer, with the way to leave at its end; in bytes.
_MOST_HTML = 102 << 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One row. `words` say what is meant and what to do, with the facts that `find` gives for each part concerned."""

    key: str
    words: str
    find: Callable[[MessageContent, FieldMap], Found]


@dataclass(frozen=True, slots=True, kw_only=True)
class Advised:
    """A piece of advice about a part."""

    key: str
    part: str
    message: str


def advice_on(content: MessageContent, fields: FieldMap) -> list[Advised]:
    """All advice on words that pass the checks, in the order of the table."""
    return [
        Advised(key=row.key, part=prefix + part, message=sentence(row.words, facts))
        for prefix, words in content.versions()
        for row in ADVICE.values()
        for part, facts in row.find(words, fields)
    ] + [
        Advised(
            key="lags",
            part=f"others.{place}.blocks",
            message=sentence(LAGS, {"language": language_name(other.language)}),
        )
        for place, other in enumerate(content.others)
        if other.basis is not None and not _follows(content, other)
    ]


LAGS = "The main words changed since the version in {language} followed them. Read it again."


def language_name(code: str) -> str:
    """What a language of LANGUAGES is called; another is its code."""
    return (Locale(code).get_display_name("en") if code in LANGUAGES else None) or code


def _follows(content: MessageContent, other: OtherWords) -> bool:
    """Are the main words those that a version in another language last followed? Ids are for editors."""
    main = Basis(subject=content.subject, preheader=content.preheader, blocks=content.blocks)
    return other.basis is None or _told(main) == _told(other.basis)


def _told(words: Basis) -> dict[str, Any]:
    return words.model_dump(mode="json", include={"subject", "preheader", "blocks"})


def _constant(nodes: tuple[InlayNode, ...]) -> Iterator[str]:
    """The author's own words, in whatever branch."""
    for node in nodes:
        match node:
            case Stretch(text=text):
                yield text
            case Branches(arms=arms):
                for arm in arms:
                    yield from _constant(arm.body)
            case Each(body=body, otherwise=otherwise):
                yield from _constant(body)
                yield from _constant(otherwise)


def _own_words(source: str) -> str:
    return "".join(_constant(parse_inlay(source)))


def _said(content: MessageContent, fields: FieldMap) -> Iterator[tuple[WrittenPart, str]]:
    """Parts that are read, with the author's own words in them."""
    for part in written_parts(content, fields):
        if part.kind in (PartKind.WORDS, PartKind.LINE):
            yield part, _own_words(part.source)


def _no_preheader(content: MessageContent, fields: FieldMap) -> Found:
    if not content.preheader.strip():
        yield "preheader", {}


def _long_subject(content: MessageContent, fields: FieldMap) -> Found:
    length = len(_own_words(content.subject).strip())
    if length > _LONG_SUBJECT:
        yield "subject", {"length": length}


def _capitals(content: MessageContent, fields: FieldMap) -> Found:
    letters = [sign for sign in _own_words(content.subject) if sign.isalpha()]
    if len(letters) > 5 and all(sign.isupper() for sign in letters):
        yield "subject", {}


def _brace_left(content: MessageContent, fields: FieldMap) -> Found:
    for part, words in _said(content, fields):
        if found := FOREIGN_PLACE.search(words):
            yield part.path, {"brace": found[0]}


_DEMONSTRATIONS = re.compile(
    r"https?://(?:[\w-]+\.)*example\.(?:com|net|org)(?:[:/?#]|$)|https?://localhost\b", re.IGNORECASE
)


def _example_link(content: MessageContent, fields: FieldMap) -> Found:
    for part in written_parts(content, fields):
        if part.kind in (PartKind.LINK, PartKind.PICTURE) and _DEMONSTRATIONS.match(part.source.strip()):
            yield part.path, {"address": part.source.strip()[:60]}


# What a link that is read out of its sentence, as screen readers list them, does not say.
_SAYS_NOTHING = frozenset(
    [
        "here", "click here", "click", "link", "this link", "more", "read more", "hier", "hier klicken", "mehr", "ici",
        "cliquez ici", "en savoir plus", "tutaj", "kliknij tutaj", "więcej",
    ]
)  # fmt: skip


def _vague_link(content: MessageContent, fields: FieldMap) -> Found:
    for part in written_parts(content, fields):
        for words in _links_of(part):
            if " ".join(words.split()).casefold().strip(".:!…→ ") in _SAYS_NOTHING:
                yield part.path, {"words": words.strip()}


def _links_of(part: WrittenPart) -> Iterator[str]:
    """The words of each link of a part."""
    if part.path.endswith(".label"):
        yield part.source
    for link, passages in groupby(part.words, key=lambda one: one.link):
        if link:
            yield source_of(tuple(passages))


def _no_label(content: MessageContent, fields: FieldMap) -> Found:
    for part in written_parts(content, fields):
        if part.path.endswith(".label") and not part.source.strip():
            yield part.path, {}


def _two_languages(content: MessageContent, fields: FieldMap) -> Found:
    told = [
        (part.path, found)
        for part, words in _said(content, fields)
        if part.kind is PartKind.WORDS and (found := spoken_in(words))
    ]
    spoken = Counter(found for _, found in told)
    main = content.language or (spoken.most_common(1)[0][0] if spoken else "")
    for path, found in told:
        if found != main:
            yield path, {"language": language_name(found), "main": language_name(main)}
            return


def _greeted_twice(content: MessageContent, fields: FieldMap) -> Found:
    always = [
        (part, words) for part, words in _said(content, fields) if part.kind is PartKind.WORDS and part.seat.always
    ]
    greetings = [(part, words) for part, words in always if is_greeting(words)]
    if len(greetings) > 1:
        part, words = greetings[1]
        yield part.path, {"words": words.split()[0]}


def _nothing_to_click(content: MessageContent, fields: FieldMap) -> Found:
    if not any(part.kind is PartKind.LINK for part in written_parts(content, fields)):
        yield "blocks", {}


def _fixed_bytes(program: Program) -> int:
    return sum(len(op.text.encode()) for op in joined(program) if isinstance(op, Fixed))


def _large(content: MessageContent, fields: FieldMap) -> Found:
    size = _fixed_bytes(Letter(content, fields).html)
    if size > _MOST_HTML:
        yield "blocks", {"size": size >> 10}


_ROWS = (
    Advice(
        key="no_preheader",
        words="There is no preheader: mailboxes show the first words of the message beside the subject instead.",
        find=_no_preheader,
    ),
    Advice(
        key="long_subject",
        words="The subject is longer than {length} characters; most mailboxes cut it after 60, telephones after 40.",
        find=_long_subject,
    ),
    Advice(
        key="capitals",
        words="The subject is written in capitals, as unwanted mail is. Write it as you would say it.",
        find=_capitals,
    ),
    Advice(
        key="brace_left",
        words="“{brace}” goes out as it stands. If a field was meant, write it as @{{first_name}}.",
        find=_brace_left,
    ),
    Advice(
        key="example_link",
        words="“{address}” is an address for demonstrations. Put your own there.",
        find=_example_link,
    ),
    Advice(
        key="vague_link",
        words="A link says only “{words}”. Say where it leads: some readers hear nothing but the links.",
        find=_vague_link,
    ),
    Advice(key="no_label", words="A button says nothing. Give it a label.", find=_no_label),
    Advice(
        key="two_languages",
        words="These words are in {language}, the others in {main}. If that is not meant, give them a version of their own.",
        find=_two_languages,
    ),
    Advice(
        key="greeted_twice",
        words="“{words}” begins as a letter begins, and the message has a greeting already. Take one of them out.",
        find=_greeted_twice,
    ),
    Advice(key="no_link", words="There is nothing to click in the message.", find=_nothing_to_click),
    Advice(
        key="large",
        words="The message is more than {size} KB without anybody's data; some mail programs cut it after 102.",
        find=_large,
    ),
)
ADVICE: Mapping[str, Advice] = {row.key: row for row in _ROWS}
