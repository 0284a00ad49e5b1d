"""What people change on their own preference page.

A page that was opened a while ago says how everything stood then; what somebody did not touch there is left as it is by now.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import timedelta
from urllib.parse import parse_qs

from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.messages import Tracked
from uvarovite.core.responses.form_fields import LONGEST_LINE

PAUSE = timedelta(days=30)
LONGEST_NAME = 100
LONGEST_REASON = 500
# A form of ours has far fewer.
_MOST_FIELDS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What somebody changed. `topics` are those that were switched, on or off; `at_most` and the `fields` stand for a change
    alone, `limit_lifted` for as often as it comes. `noted` says how much may be noted of what they open and follow. `why` are their
    own words.
    """

    topics: Mapping[int, bool] = field(default_factory=dict)
    leaves_all: bool = False
    at_most: AtMost | None = None
    limit_lifted: bool = False
    pauses: bool = False
    resumes: bool = False
    fields: Mapping[str, str] = field(default_factory=dict)
    noted: Tracked | None = None
    why: str = ""

    @property
    def is_nothing(self) -> bool:
        """Was nothing changed?"""
        said = (
            *(self.topics, self.leaves_all, self.at_most, self.limit_lifted, self.pauses, self.resumes),
            *(self.fields, self.noted),
        )
        return not any(said)


# What everybody may correct of themselves.
FIELDS = ("first_name", "last_name", "language")
# The names of the organisation's own fields in the form begin so: none of them is taken for another part of it.
_OWN = "own_"


def own_name(key: str) -> str:
    """What the input for a field of the organisation's own is called."""
    return f"{_OWN}{key}"


def read_wishes(body: bytes) -> Wishes | None:
    """What a form of the preference page says, of which fields of the organisation's own soever; None where it is none of ours."""
    try:
        told = parse_qs(body.decode("utf-8"), keep_blank_values=True, max_num_fields=_MOST_FIELDS)
    except (UnicodeDecodeError, ValueError):
        return None
    if "save" not in told and "leave_all" not in told:
        return None
    on, were_on = _numbers(told.get("topic", ())), _numbers(told.get("topic_was", ()))
    limit, limit_was = _one(told, "at_most"), _one(told, "at_most_was")
    noted, noted_was = _one(told, "noted"), _one(told, "noted_was")
    names = {key: key for key in FIELDS} | {name.removeprefix(_OWN): name for name in told if name.startswith(_OWN)}
    return Wishes(
        topics={topic: topic in on for topic in sorted(on ^ were_on)},
        leaves_all="leave_all" in told,
        at_most=AtMost(limit) if limit != limit_was and limit in tuple(AtMost) else None,
        limit_lifted=limit != limit_was and limit == "",
        pauses="pause" in told,
        resumes="resume" in told,
        fields={
            key: text
            for key, name in names.items()
            if name in told
            and f"{name}_was" in told
            and (text := _one(told, name, _longest(name))) != _one(told, f"{name}_was", _longest(name))
        },
        noted=Tracked(noted) if noted != noted_was and noted in tuple(Tracked) else None,
        why=_one(told, "why", LONGEST_REASON),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How everything stood on a page, as its form says it: topics that are on, and texts by the names of their inputs."""

    topics: frozenset[int]
    texts: Mapping[str, str]
    paused: bool


def form_back(before: Standing, after: Standing) -> tuple[tuple[str, str], ...]:
    """What a form says that takes back what led from one to the other, name and value each; nothing where nothing was changed.

    A pause that was ended has no way back: it would be another one.
    """
    changed = {name: text for name, text in after.texts.items() if name in before.texts and before.texts[name] != text}
    told = [("topic", str(one)) for one in sorted(before.topics)]
    told += [("topic_was", str(one)) for one in sorted(after.topics)]
    for name, text in changed.items():
        told += [(name, before.texts[name]), (f"{name}_was", text)]
    resumes = after.paused and not before.paused
    if resumes:
        told.append(("resume", "yes"))
    return tuple(told) if before.topics != after.topics or changed or resumes else ()


def read_reason(body: bytes) -> str:
    """Why somebody leaves, where the form of leaving says it."""
    try:
        told = parse_qs(body.decode("utf-8"), max_num_fields=_MOST_FIELDS)
    except (UnicodeDecodeError, ValueError):
        return ""
    return _one(told, "why", LONGEST_REASON)


def _one(told: Mapping[str, Sequence[str]], key: str, longest: int = LONGEST_NAME) -> str:
    return " ".join("".join(sign if sign.isprintable() else " " for sign in told.get(key, [""])[-1]).split())[:longest]


def _longest(name: str) -> int:
    return LONGEST_LINE if name.startswith(_OWN) else LONGEST_NAME


def _numbers(texts: Sequence[str]) -> frozenset[int]:
    return frozenset(int(text) for text in texts if text.isascii() and text.isdecimal() and len(text) < 10)
