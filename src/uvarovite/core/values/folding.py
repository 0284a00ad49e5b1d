"""One folded form for comparing text, wherever it is compared.

Both back ends of the criteria compare this form: the database stores it, Python computes it. Letting each
side fold by its own rules (`lower()` there, `casefold()` here) would disagree on ß, İ and composed letters.
"""

import unicodedata


def fold(text: str) -> str:
    """Caseless, composition-blind form of a text (Unicode 15, section 3.13, D145, then NFC)."""
    if text.isascii():
        # The same for these, and most texts of a large import are such.
        return text.lower()
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", text).casefold())
