"""Shared blocks within the words of messages: what stands in them, brought to what it is now, and made a message's own."""

from collections.abc import Callable, Iterator
from typing import Any

from uvarovite.core.messages.document import MessageContent

# A stored document, or a part of one.
Stored = dict[str, Any]
# The words of the shared block with a number; None where there is none any more.
WordsOf = Callable[[int], tuple[str, MessageContent] | None]


def shared_in(content: MessageContent) -> set[int]:
    """The numbers of the shared blocks that stand anywhere in a message, also in its other languages."""
    return {one["message_id"] for words in _words(content.model_dump(mode="json")) for one in _shared(words)}


def with_shared_now(content: MessageContent, words_of: WordsOf) -> MessageContent:
    """The message with its shared blocks as they are now, in the language of the words around them.

    What other languages follow is brought along: a change of a shared block is no change of the words around it.
    """
    told = content.model_dump(mode="json")
    for words in _words(told):
        for one in _shared(words):
            if found := words_of(one["message_id"]):
                one["name"] = found[0]
                one["blocks"] = in_language(found[1], words.get("language", content.language))["blocks"]
    return MessageContent.model_validate(told)


def in_language(content: MessageContent, language: str) -> Stored:
    """The words of a shared block for who reads `language`: those in it, else the main ones."""
    for other in content.others:
        if other.language == language:
            return other.model_dump(mode="json")
    return content.model_dump(mode="json")


def without_shared(content: MessageContent) -> MessageContent:
    """The message with what stands in shared blocks as blocks of its own: nothing of it is looked up elsewhere."""
    return MessageContent.model_validate(_opened(content.model_dump(mode="json")))


def _words(told: Stored) -> Iterator[Stored]:
    """The main words, those in other languages, and what those follow, each as what holds its blocks."""
    yield told
    for other in told["others"]:
        yield other
        if other["basis"]:
            yield other["basis"]


def _shared(words: Stored) -> Iterator[Stored]:
    waiting: list[Any] = [words["blocks"]]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            if one.get("kind") == "shared":
                yield one
            else:
                waiting += one.values()
        elif isinstance(one, list):
            waiting += one


def _opened(told: Any) -> Any:
    if isinstance(told, dict):
        return {key: _opened(value) for key, value in told.items()}
    if not isinstance(told, list):
        return told
    return [
        inner
        for one in told
        for inner in (
            _opened(one["blocks"]) if isinstance(one, dict) and one.get("kind") == "shared" else [_opened(one)]
        )
    ]
