"""Which language words are in, by the small words that every text of a language is full of.

It says nothing of a text that is too short to tell. The words are chosen so that a few of them tell one language of
LANGUAGES from each other one.
"""

import re
from collections.abc import Mapping

_WORD = re.compile(r"[^\W\d_]+")
# Of small words in a text; fewer may be names and quotations.
_ENOUGH = 3

SMALL_WORDS: Mapping[str, frozenset[str]] = {
    language: frozenset(words.split())
    for language, words in {
        "en": "the and of to you your our is are with for that this will from have at we on can not be it",
        "de": "der die das und ist sind sie ihr ihre ihnen wir unser unsere mit für ein eine auf zu von nicht den dem im",
        "fr": "le la les des du et est sont vous votre vos nous notre nos avec pour une un dans sur au aux que qui ne pas",
        "pl": "i w z na do nie się jest są że dla od po za przez oraz który która państwo państwa nasz nasze będzie przed",
        "nl": "de het een en van is zijn u uw wij we onze met voor op niet aan bij dat die naar om als ook te wordt",
        "es": "el la los las de y es son usted su sus nosotros nuestro nuestra con para una un en que no se por del al",
        "it": "il lo la gli le di e è sono lei suo sua noi nostro nostra con per una un che non si del della alla nel",
        "el": "ο η το οι τα του της των και είναι σας μας με για ένα μια σε στο στη στην από που δεν να θα ότι",
    }.items()
}

# What letters begin with; who is spoken to stands behind it.
GREETINGS = frozenset(
    [
        "dear",
        "hello",
        "hi",
        "liebe",
        "lieber",
        "liebes",
        "hallo",
        "guten",
        "cher",
        "chère",
        "chers",
        "chères",
        "bonjour",
        "drogi",
        "droga",
        "drodzy",
        "szanowny",
        "szanowna",
        "szanowni",
        "beste",
        "geachte",
        "estimado",
        "estimada",
        "querido",
        "querida",
        "hola",
        "caro",
        "cara",
        "gentile",
        "buongiorno",
        "αγαπητέ",
        "αγαπητή",
    ]
)


def spoken_in(text: str) -> str | None:
    """The language of a text by its code, None where that cannot be told."""
    words = [word.casefold() for word in _WORD.findall(text)]
    counts = sorted(
        ((sum(word in small for word in words), language) for language, small in SMALL_WORDS.items()), reverse=True
    )
    (most, language), (next_most, _) = counts[:2]
    return language if most >= _ENOUGH and most > 2 * next_most else None


def is_greeting(text: str) -> bool:
    """Does a text begin as letters begin?"""
    first = _WORD.match(text.strip())
    return first is not None and first[0].casefold() in GREETINGS
