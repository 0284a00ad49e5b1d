"""Would the tests notice? Changes one condition at a time, in Python or in SQL, and runs the tests that should.

    .venv/bin/python scripts/mutation.py [--sample 60] [--seed 8040] [--only store/delivery]

The sample is the same for the same seed. What survives is printed with its place: a test is missing there, or the
condition is not needed, or the two mean the same. No tool that there is changes the SQL in a text, which is where half of
the conditions of the queue stand.
"""

import argparse
import ast
import random  # noqa: TID251 - seeded
import re
import shutil
import subprocess
import sys
import sysconfig
import tempfile
import venv
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
PACKAGE = Path("src/uvarovite")

# What is looked at, and the tests that are there for it: the quick ones of the core first, then those that run what the
# core says about SQL, or use it as the application does. The longest prefix of a path holds.
_CRITERIA = ("tests/store/test_criteria_both_ways.py", "tests/services/test_criteria_about.py")
_GATES = ("tests/services/test_gates.py", "tests/services/test_gates_together.py", "tests/services/test_caps.py")
_FILES = ("tests/sandbox", "tests/services/test_imports.py", "tests/services/test_import_jobs.py")
SCOPE: dict[str, tuple[tuple[str, ...], ...]] = {
    "core": (("tests/core",),),
    "core/audiences": (("tests/core",), (*_GATES, "tests/services/test_parts.py")),
    "core/consent": (("tests/core",), ("tests/store/test_ledger.py", "tests/services/test_closed_addresses.py")),
    "core/contacts": (("tests/core",), (*_FILES, "tests/services/test_bulk.py", "tests/services/test_live_sources.py")),
    "core/messages": (
        ("tests/core",),
        ("tests/services/test_gates.py", "tests/services/test_clearance_and_release.py"),
    ),
    "core/expressions": (("tests/core",), _CRITERIA),
    "store/delivery": (
        tuple(f"tests/store/test_{what}.py" for what in ("queue", "permits", "holding", "run_counts", "links")),
        ("tests/workers", *_GATES, "tests/services/test_leaving_in_flight.py", "tests/api/test_public_pages.py"),
        ("tests/services/test_whatever_happens.py", "tests/services/test_clearance_and_release.py"),
    ),
}
# A changed condition may never end.
PATIENCE_SECONDS = 900

_PYTHON = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==",
    ast.In: "not in", ast.NotIn: "in", ast.Is: "is not", ast.IsNot: "is",
}  # fmt: skip
_SQL = (
    (r"(?<= )<=(?= )", "<"), (r"(?<= )<(?= )", "<="), (r"(?<= )>=(?= )", ">"), (r"(?<= )>(?= )", ">="),
    (r"\bAND\b", "OR"), (r"\bIS NULL\b", "IS NOT NULL"), (r"\bIS NOT NULL\b", "IS NULL"),
    (r"\bNOT EXISTS\b", "EXISTS"), (r"(?<!NOT )\bEXISTS\b", "NOT EXISTS"), (r"\bNOT IN\b", "IN"),
    (r"(?<!NOT )\bIN \(", "NOT IN ("),
)  # fmt: skip
_IS_SQL = re.compile(r"\b(SELECT|UPDATE|DELETE FROM|INSERT INTO|WHERE)\b")


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One condition of a file, from byte `begin` to `end`, that becomes `after`."""

    file: Path
    begin: int
    end: int
    after: str

    def place(self) -> str:
        """Where it is, and how it changes the line."""
        source = (ROOT / self.file).read_bytes()
        line = source.count(b"\n", 0, self.begin) + 1
        first, last = source.rfind(b"\n", 0, self.begin) + 1, source.find(b"\n", self.end)
        told = (
            source[first : self.begin] + b">>" + source[self.begin : self.end] + b"<<" + source[self.end : last]
        ).decode()
        return f"{self.file}:{line}: {told.strip()[:150]}  ->  {self.after}"


def _changes(file: Path) -> Iterator[Change]:
    source = (ROOT / file).read_bytes()
    begins = [0, *(found.end() for found in re.finditer(rb"\n", source))]

    def at(line: int, column: int) -> int:
        return begins[line - 1] + column

    def between(left: ast.expr, right: ast.expr, pattern: bytes, after: str) -> Iterator[Change]:
        begin = at(left.end_lineno or 0, left.end_col_offset or 0)
        end = at(right.lineno, right.col_offset)
        if found := re.search(pattern, source[begin:end]):
            yield Change(file=file, begin=begin + found.start(), end=begin + found.end(), after=after)

    tree = ast.parse(source)
    docstrings = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare):
            for left, operator, right in zip([node.left, *node.comparators], node.ops, node.comparators, strict=False):
                yield from between(
                    left, right, rb"[<>=!]+|\bnot\s+in\b|\bin\b|\bis\s+not\b|\bis\b", _PYTHON[type(operator)]
                )
        elif isinstance(node, ast.BoolOp):
            word, other = (rb"\band\b", "or") if isinstance(node.op, ast.And) else (rb"\bor\b", "and")
            for left, right in zip(node.values, node.values[1:], strict=False):
                yield from between(left, right, word, other)
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield Change(
                file=file,
                begin=at(node.lineno, node.col_offset),
                end=at(node.operand.lineno, node.operand.col_offset),
                after="",
            )
        elif isinstance(node, ast.Constant | ast.JoinedStr) and id(node) not in docstrings:
            begin, end = at(node.lineno, node.col_offset), at(node.end_lineno or 0, node.end_col_offset or 0)
            text = source[begin:end].decode()
            if (isinstance(node, ast.JoinedStr) or isinstance(node.value, str)) and _IS_SQL.search(text):
                for pattern, after in _SQL:
                    for found in re.finditer(pattern, text):
                        first = begin + len(text[: found.start()].encode())
                        yield Change(file=file, begin=first, end=first + len(found[0].encode()), after=after)


def _sample(only: str, seed: int, size: int) -> list[tuple[Change, tuple[tuple[str, ...], ...]]]:
    found: list[tuple[Change, tuple[tuple[str, ...], ...]]] = []
    for path in sorted((ROOT / PACKAGE).rglob("*.py")):
        file = path.relative_to(ROOT)
        rooms = [room for room in SCOPE if path.is_relative_to(ROOT / PACKAGE / room)]
        if rooms and only in str(file):
            # A part of an f-string is seen twice, once as itself and once within.
            told = {(one.begin, one.after): one for one in _changes(file)}
            found += [(one, SCOPE[max(rooms, key=len)]) for one in told.values()]
    return random.Random(seed).sample(found, min(size, len(found)))  # noqa: S311 - nothing secret depends on it


def _end_of(tests: tuple[str, ...], place: Path) -> str:
    """How the tests end: failed, endless; empty where they pass."""
    command = [str(place / ".venv/bin/python"), "-m", "pytest", "-x", "-q", "-n", "2", "-p", "no:cacheprovider", *tests]
    try:
        ended = subprocess.run(command, cwd=place, capture_output=True, timeout=PATIENCE_SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return "endless"
    return "failed" if ended.returncode else ""


def _is_noticed(change: Change, tests: tuple[str, ...], place: Path) -> str:
    """How the tests notice it: failed, endless; empty where they do not."""
    target, source = place / change.file, (ROOT / change.file).read_bytes()
    target.write_bytes(source[: change.begin] + change.after.encode() + source[change.end :])
    try:
        return _end_of(tests, place)
    finally:
        target.write_bytes(source)


def _set_up(place: Path) -> None:
    """A copy with a Python of its own: processes that read no environment take the changed code too."""
    place.chmod(0o755)
    for name in ("src", "tests", "scripts", "docs", "pyproject.toml", "README.md"):
        copy = shutil.copytree if (ROOT / name).is_dir() else shutil.copy
        copy(ROOT / name, place / name)
    venv.create(place / ".venv", symlinks=True)
    (packages,) = (place / ".venv/lib").glob("python*/site-packages")
    (packages / "mutation.pth").write_text(f"{place / 'src'}\n{sysconfig.get_path('purelib')}\n", encoding="utf-8")


def main() -> int:
    """Try a sample, and print what survives."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--sample", type=int, default=60)
    asked.add_argument("--seed", type=int, default=8040)
    asked.add_argument("--only", default="", help="a part of the path of what is changed")
    told = asked.parse_args()
    chosen = _sample(told.only, told.seed, told.sample)
    ends: Counter[str] = Counter()
    survivors: list[str] = []
    with tempfile.TemporaryDirectory(prefix="uvarovite-mutation-") as directory:
        place = Path(directory)
        _set_up(place)
        # Tests that fail by themselves would seem to notice everything.
        for stage in sorted({stage for _, stages in chosen for stage in stages}):
            if end := _end_of(stage, place):
                print(f"Without any change, {' '.join(stage)} {end}: nothing was tried.")
                return 1
        for number, (change, stages) in enumerate(chosen, 1):
            noticed = next(filter(None, (_is_noticed(change, stage, place) for stage in stages)), "")
            ends[noticed or "survived"] += 1
            print(f"{number:4} of {len(chosen)}  {noticed or 'SURVIVED':9} {change.place()}", flush=True)
            if not noticed:
                survivors.append(change.place())
    share = 100 * (len(chosen) - len(survivors)) / max(1, len(chosen))
    print(f"\n{len(chosen)} conditions changed, {share:.0f} % noticed ({dict(ends)}). What survived:")
    print("\n".join(survivors) or "nothing")
    return 0


if __name__ == "__main__":
    sys.exit(main())
