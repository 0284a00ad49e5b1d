"""The house in order: what the docs say holds, names lead somewhere, and the repository speaks only of itself."""

import ast
import importlib.util
import re
import subprocess
from importlib import import_module
from pathlib import Path

import pytest
from sqlalchemy.dialects.postgresql.base import RESERVED_WORDS
from typer.main import get_group

from uvarovite.cli.app import COMMANDS, app
from uvarovite.core import consent
from uvarovite.core.audiences import GATES, PAPER_GATES
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.delivery import BatchState, DeliveryState, RunState
from uvarovite.demo.contacts import TROUBLE, make_files
from uvarovite.settings import Settings
from uvarovite.store.audiences.gates import REASON_OF
from uvarovite.store.tables import SQLModel

ROOT = Path(__file__).parents[2]


def tracked(*patterns: str) -> list[Path]:
    """The repository's files."""
    told = subprocess.run(["git", "ls-files", *patterns], cwd=ROOT, capture_output=True, text=True, check=True)
    return [ROOT / name.strip('"') for name in told.stdout.splitlines()]


def pages_from_tables():  # type: ignore[no-untyped-def]
    spec = importlib.util.spec_from_file_location("docs_from_tables", ROOT / "scripts" / "docs_from_tables.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.PAGES


@pytest.mark.parametrize("name", ["languages/criteria.md", "languages/inlay.md", "permissions.md", "states.md"])
def test_pages_are_what_the_tables_give(name: str) -> None:
    assert (ROOT / "docs" / name).read_text(encoding="utf-8") == pages_from_tables()[name](), (
        "run: .venv/bin/python scripts/docs_from_tables.py"
    )


def test_no_statement_spells_a_state() -> None:
    kinds = (DeliveryState, BatchState, RunState, ImportState)
    spelled = re.compile(rf"\bstate (=|<>|IN|NOT IN) \(?'({'|'.join(state for kind in kinds for state in kind)})'")
    found = [
        f"{file.name}: {text.strip()[:80]}"
        for file in tracked("src/uvarovite/*.py")
        if "migrations" not in file.parts
        for text in sentences(file, sql=True)
        # The states of consent are those of the ledger, which has a table of its own.
        if spelled.search(re.sub(r"\b(consent|own)\.state", "", text)) and "FROM consent" not in text
    ]
    assert found == []


def test_every_setting_and_command_stands_in_the_operations_page() -> None:
    page = (ROOT / "docs" / "operations.md").read_text(encoding="utf-8")
    for name in Settings.model_fields:
        assert f"`UVAROVITE_{name.upper()}`" in page
    for name in COMMANDS:
        assert f"`uvarovite {name}" in page


def test_every_command_is_found_in_the_module_that_has_it() -> None:
    for module in set(COMMANDS.values()):
        import_module(f"uvarovite.cli.{module}")
    found = {name: command.callback.__module__ for name, command in get_group(app).commands.items()}
    assert found == {name: f"uvarovite.cli.{module}" for name, module in COMMANDS.items()}


def test_every_make_target_that_the_docs_name_is_there() -> None:
    targets = set(re.findall(r"^([a-z-]+):", (ROOT / "Makefile").read_text(), re.MULTILINE))
    for file in tracked("*.md"):
        for name in re.findall(r"make ([a-z-]+)`", file.read_text(encoding="utf-8")):
            assert name in targets, f"{file.name} names make {name}"


def test_every_link_between_the_docs_leads_somewhere() -> None:
    for file in tracked("*.md"):
        for target in re.findall(r"\]\((?!https?:)([^)#]+)", file.read_text(encoding="utf-8")):
            assert (file.parent / target).exists(), f"{file.name} points to {target}"


def sentences(file: Path, *, sql: bool = False) -> list[str]:
    """The texts of a module of Python that may be read on screen: not its docstrings, nor keys; with `sql` that, too."""
    tree = ast.parse(file.read_text(encoding="utf-8"))
    docstrings = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    texts = [n.value for n in ast.walk(tree) if isinstance(n, ast.Constant) and id(n) not in docstrings]
    told = [text for text in texts if isinstance(text, str) and " " in text.strip()]
    return told if sql else [text for text in told if not re.search(r"\b(SELECT|FROM)\b", text)]


def unwanted_words(part: int) -> list[str]:
    """What stands under *Not* in a part of the glossary: 0 for the screen, 1 for the names in the code."""
    text = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8").split("## In the code")[part]
    rows = re.findall(r"^\| [^|]+ \| [^|]+ \| ([^|]+) \|$", text, re.MULTILINE)
    return [word for words in rows[2:] for word in words.split(", ")]


def names_in(file: Path) -> set[str]:
    """Every name that a module gives: of itself, its functions, classes, arguments and variables, in snake case."""
    text = file.read_text(encoding="utf-8")
    if file.suffix == ".py":
        names = {
            name
            for node in ast.walk(ast.parse(text))
            for name in (getattr(node, key, None) for key in ("name", "id", "arg", "attr"))
            if isinstance(name, str)
        }
    else:
        names = set(re.findall(r"\b(?:function|const|let|class|interface|type) (\w+)", text))
    return {re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name).lower() for name in names | {file.stem.split(".")[0]}}


def test_the_code_is_named_as_the_glossary_says() -> None:
    unwanted = re.compile(rf"(?:^|_)({'|'.join(unwanted_words(1))})(?:_|$)")
    files = [
        file for file in tracked("src/uvarovite/*.py", "web/src/*.ts", "web/src/*.tsx") if "versions" not in file.parts
    ]
    found = {f"{file.name}: {name}" for file in files for name in names_in(file) if unwanted.search(name)}
    assert len(unwanted_words(1)) > 12
    assert found == set()


def test_no_column_has_a_reserved_word_for_a_name() -> None:
    columns = {f"{table.name}.{column.name}" for table in SQLModel.metadata.tables.values() for column in table.columns}
    assert {name for name in columns if name.split(".")[1] in RESERVED_WORDS | {"values"}} == set()


def test_the_screen_speaks_as_the_glossary_says() -> None:
    said_otherwise = unwanted_words(0)
    assert len(said_otherwise) > 40
    unwanted = re.compile(rf"\b({'|'.join(map(re.escape, said_otherwise))})\b", re.IGNORECASE)
    found = []
    for file in tracked("web/src/*.tsx", "web/src/*.ts"):
        if file.name.endswith((".test.ts", ".test.tsx", "schema.d.ts")):
            continue
        text = re.sub(r"/\*.*?\*/|^\s*//[^\n]*", "", file.read_text(encoding="utf-8"), flags=re.DOTALL | re.MULTILINE)
        # What people read: strings, and text between tags; not what a search also goes by.
        text = re.sub(r"\balso: \"[^\"]*\"", "", text)
        for shown in re.findall(r"\"[^\"\n]*\"|`[^`]*`|>[^<>{}]+<|^\s+[A-Z][^<>{}=;()]*$", text, re.MULTILINE):
            found += [f"{file.name}: “{word}” in {shown.strip()[:80]}" for word in unwanted.findall(shown)]
    for file in tracked("src/uvarovite/*.py"):
        # Other people's programs, and what people write to us, have words of their own.
        if "rehearsal" in file.parts or file.name == "phrases.py":
            continue
        found += [
            f"{file.name}: “{word}” in {text[:80]}" for text in sentences(file) for word in unwanted.findall(text)
        ]
    assert found == []


def test_each_gate_has_one_sql() -> None:
    assert set(REASON_OF) == {gate.key for gate in (*GATES, *PAPER_GATES)}


def test_the_core_names_no_table() -> None:
    names = "|".join(SQLModel.metadata.tables)
    named = re.compile(rf"\b(?:FROM|JOIN|INTO|UPDATE) (?:{names})\b|\b(?:consent|suppression|delivery|run)\.[a-z]")
    found = [
        f"{file.name}: {text[:80]}"
        for file in tracked("src/uvarovite/core/*.py")
        for text in sentences(file, sql=True)
        if named.search(text)
    ]
    assert found == []


def test_what_puts_the_parts_together_says_nothing_to_people() -> None:
    told = {text for file in tracked("src/uvarovite/bootstrap/*.py") for text in sentences(file) if text[0].isupper()}
    assert told == set()


@pytest.mark.parametrize("name", ["STATE_WORDS", "KIND_WORDS", "REASON_WORDS"])
def test_consent_has_the_same_words_on_screen_and_in_a_record(name: str) -> None:
    shown = (ROOT / "web/src/core/consent.ts").read_text(encoding="utf-8")
    [table] = re.findall(rf"export const {name}: [^=]+= {{\n(.*?)\n}};", shown, re.DOTALL)
    assert dict(re.findall(r"^  (\w+): \"(.*)\",$", table, re.MULTILINE)) == dict(getattr(consent, name))


def test_what_is_on_screen_is_asked_anew_in_one_way() -> None:
    # By itself it takes the answer to an earlier question: see renew.ts.
    by_itself = {
        file.name for file in tracked("web/src/*.ts*") if "invalidateQueries(" in file.read_text(encoding="utf-8")
    }
    assert by_itself == {"renew.ts"}


def test_the_demos_file_is_what_its_seed_gives() -> None:
    shipped = (ROOT / "src/uvarovite/demo/museum contacts.csv").read_text(encoding="utf-8")
    files = make_files()
    assert files.contacts == shipped
    rows = shipped.splitlines()[1:]
    assert len(rows) == 2_400
    cells = [row.split(",") for row in rows]
    assert sum(row[1] == "" for row in cells) == TROUBLE.no_address
    assert sum(";" in row[1] for row in cells) == TROUBLE.two_addresses
    assert sum("quartzmial" in row[1] for row in cells) == TROUBLE.domain_typo


def test_addresses_are_invented() -> None:
    allowed = re.compile(r"\.example\b|@(mantine|tanstack|tabler|testing-library|types|vitejs|biomejs|fontsource)")
    for file in tracked("*.py", "*.ts", "*.tsx", "*.md", "*.csv"):
        for address in re.findall(r"[\w.+-]+@[a-z][\w-]*\.[a-z]{2,}\b", file.read_text(encoding="utf-8")):
            assert allowed.search(address) or "slatepost" in address or address.endswith((".c.d", "b.c")), (
                f"{file.name}: {address}"
            )


def test_lock_files_name_no_host() -> None:
    for file in tracked("requirements/*.lock"):
        assert "://" not in file.read_text()
    assert '"resolved"' not in (ROOT / "web" / "package-lock.json").read_text()


def test_no_file_grows_beyond_one_subject() -> None:
    long = {
        file.relative_to(ROOT): lines
        for file in tracked("src/*.py", "web/src/*.ts", "web/src/*.tsx")
        if "migrations" not in file.parts
        and file.name != "schema.d.ts"
        and (lines := len(file.read_text(encoding="utf-8").splitlines())) > 520
    }
    assert long == {}
