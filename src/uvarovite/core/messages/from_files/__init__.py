"""What was written elsewhere, from a file: HTML, Word, Markdown, plain text and mail become blocks."""

from uvarovite.core.messages.from_files.files import LARGEST_BYTES, words_of_file
from uvarovite.core.messages.from_files.places import with_places
from uvarovite.core.messages.from_files.words import LEFT_OUT, WordsOfFile, WritingFault

__all__ = ["LARGEST_BYTES", "LEFT_OUT", "WordsOfFile", "WritingFault", "with_places", "words_of_file"]
