"""What is stored is a code with its facts: each that the code raises has its words, and the words get their facts."""

import ast
from collections.abc import Mapping
from functools import cache
from pathlib import Path

import pytest

from uvarovite.core.campaigns.checks import CHECKS
from uvarovite.core.contacts.import_faults import IMPORT_FAULTS
from uvarovite.core.delivery.troubles import TROUBLES
from uvarovite.core.messages.attachments.files import ATTACHMENT_FAULTS
from uvarovite.core.messages.from_files.words import WRITING_FAULTS
from uvarovite.core.messages.pictures import PICTURE_FAULTS
from uvarovite.core.values.sentences import facts_in

PACKAGE = Path(__file__).parents[2] / "src" / "uvarovite"


@cache
def trees() -> list[ast.Module]:
    return [ast.parse(file.read_text(encoding="utf-8")) for file in PACKAGE.rglob("*.py")]


def raised(maker: str, prefix: str = "") -> dict[str, list[frozenset[str]]]:
    """The codes that calls of a maker name, and for each call the facts that it gives."""
    found: dict[str, list[frozenset[str]]] = {}
    for tree in trees():
        for node in ast.walk(tree):
            if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == maker):
                continue
            code = node.args[0] if node.args else None
            given = {word.arg: word.value for word in node.keywords}
            how = given.get("how")
            if None in given or not isinstance(code, ast.Constant) or not isinstance(how, ast.Constant | None):
                continue  # handed on from a child process, or found by its code
            name = prefix + str(code.value) + (f".{how.value}" if how else "")
            found.setdefault(name, []).append(frozenset(map(str, given)) - {"how"})
    return found


@pytest.mark.parametrize(
    ("makers", "table", "elsewhere"),
    [
        (
            {"FileFault": "file_", "SourceFault": "source_", "import_conflict": ""},
            IMPORT_FAULTS,
            {"stopped", "dropped", "source_secret.other_key", "source_secret.other_server"},
        ),
        ({"relay_trouble": ""}, TROUBLES, {"other_key", "other_server"}),
        ({"WritingFault": ""}, WRITING_FAULTS, set()),
        ({"PictureFault": ""}, PICTURE_FAULTS, set()),
        ({"AttachmentFault": ""}, ATTACHMENT_FAULTS, set()),
        (
            {"release_check": ""},
            {code: row.words for code, row in CHECKS.items()},
            {"draft_audience", "draft_message", "others_draft_audience", "others_draft_message"},
        ),
    ],
    ids=["imports", "relays", "words from files", "pictures", "attachments", "before a release"],
)
def test_a_code_has_its_words_and_they_get_their_facts(
    makers: Mapping[str, str], table: Mapping[str, str], elsewhere: set[str]
) -> None:
    calls = {code: given for maker, prefix in makers.items() for code, given in raised(maker, prefix).items()}
    assert set(calls) | elsewhere == set(table) - {"told"}
    for code, several in calls.items():
        assert set(several) == {facts_in(table[code])}, code
