"""The words of the pages for recipients: a file for each language. Another language is another file."""

from importlib import import_module
from pkgutil import iter_modules

from uvarovite.core.responses.languages import preferred
from uvarovite.public.words.page_words import PageWords

_NOT_WORDS = "page_words"
PAGE_WORDS: dict[str, PageWords] = {
    found.name: import_module(f"{__name__}.{found.name}").WORDS
    for found in iter_modules(__path__)
    if found.name != _NOT_WORDS
}


def words_in(language: str | None) -> tuple[str, PageWords]:
    """(language, words): the reader's own, by a code or by what their browser says, where there are words in it, else English."""
    code = preferred(language, PAGE_WORDS) or "en"
    return code, PAGE_WORDS[code]
