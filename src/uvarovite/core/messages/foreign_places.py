"""Places for data as other programs write them, which go out as they stand."""

import re

# {{name}}, {name}, [[name]], %name%, <<name>>: as they are found in letters of all kinds.
FOREIGN_PLACE = re.compile(
    r"\{\{\s*(?P<a>.{1,40}?)\s*\}\}|(?<!@)\{(?P<b>\w[\w .-]{0,30})\}|\[\[\s*(?P<c>.{1,40}?)\s*\]\]|%(?P<d>\w{2,30})%|<<(?P<e>\w[\w ]{0,30})>>"
)
