"""The contact table and an import at 1,000,000 contacts with twelve columns.

The import is the whole of it: reading the file, judging, telling duplicates apart, writing contacts, search text and the
ledger. It is compared, in the same run, with COPY of the very same rows into a table that is made like `contact`, with
all its indexes. The table's pages are the service's own calls; each figure is the median of several.
"""

import csv
import random
import resource
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

from uvarovite.core.accounts import SYSTEM
from uvarovite.demo.names import FIRST_NAMES, LANGUAGE_SHARES, LAST_NAMES, TOWNS
from uvarovite.demo.story import founding
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.imports.writing import import_file
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.selection.table import Wanted, contact_page, count_contacts
from uvarovite.store.cluster import Cluster
from uvarovite.store.contacts.indexes import tend_indexes
from uvarovite.store.database import Database, psycopg_connection, run_sql
from uvarovite.store.schema import upgrade

PEOPLE = 1_000_000
PORT = 8_047
NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)
HEADER = (
    "Contact no.", "E-mail address", "First name", "Last name", "Language", "Membership", "Pledge", "Renews on", "Town",
    "Postcode", "Visits last year", "Volunteer",
)  # fmt: skip
COPIED = (
    "id, contact_no, address, address_folded, first_name, last_name, language, own, folded, import_id, created_at, "
    "updated_at, deleted_at, erased_at"
)


def write_people(path: Path, people: int) -> None:
    """A contact file of so many people, the same each time."""
    rng = random.Random(8_040)
    languages = list(LANGUAGE_SHARES)
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(HEADER)
        for number in range(people):
            language = rng.choice(languages)
            second = f"-{rng.choice(LAST_NAMES[language])}" if rng.random() < 0.5 else ""
            writer.writerow(
                [
                    f"SV-{number:07d}",
                    f"person.{number}@slatepost.example",
                    rng.choice(FIRST_NAMES[language]),
                    rng.choice(LAST_NAMES[language]) + second,
                    language,
                    rng.choice(["", "Friend", "Fellow", "Patron"]),
                    f"{rng.randint(10, 2_000)}.{rng.choice(['00', '50'])}" if rng.random() < 0.6 else "",
                    (date(2026, 1, 1) + timedelta(days=rng.randint(0, 700))).isoformat(),
                    rng.choice(TOWNS),
                    f"SK{rng.randint(1, 19)} {rng.randint(1, 9)}AB",
                    str(rng.randint(0, 30)),
                    rng.choice(["yes", "no"]),
                ]
            )


def pieces(path: Path) -> Iterator[bytes]:
    """A file's bytes, a megabyte at a time."""
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            yield piece


def seconds(act: Callable[[], object]) -> float:
    """How long something takes."""
    began = time.perf_counter()
    act()
    return time.perf_counter() - began


def copy_again(database: Database, path: Path) -> float:
    """COPY of the rows that are there into a table made like `contact`; the seconds that it takes."""
    with (
        database.transaction() as tx,
        path.open("wb") as file,
        psycopg_connection(tx).cursor().copy(f"COPY contact ({COPIED}) TO STDOUT") as out,
    ):
        for piece in out:
            file.write(piece)
    with database.transaction() as tx:
        run_sql(tx, "CREATE TABLE copied (LIKE contact INCLUDING ALL)")

    def copy() -> None:
        with (
            database.transaction() as tx,
            psycopg_connection(tx).cursor().copy(f"COPY copied ({COPIED}) FROM STDIN") as into,
        ):
            for piece in pieces(path):
                into.write(piece)

    taken = seconds(copy)
    with database.transaction() as tx:
        run_sql(tx, "DROP TABLE copied")
    return taken


def look_around(database: Database) -> None:
    """The table's pages and searches, in milliseconds."""

    def page(**told: str) -> Callable[[], object]:
        wanted = Wanted(search=told.pop("search", ""), criteria=told.pop("criteria", ""))
        return lambda: contact_page(database, SYSTEM, wanted=wanted, now=NOW, **told)  # type: ignore[arg-type]

    looks: dict[str, Callable[[], object]] = {"first page": page()}
    keys = (
        "name", "added", "address", "contact_no", "language", "membership", "pledge", "renews_on", "town", "postcode",
        "visits_last_year", "volunteer", "school", "adopted_specimens",
    )  # fmt: skip
    looks |= {f"sorted by {sort}": page(sort=sort) for key in keys for sort in (key, f"-{key}")}
    for words in ("wren", "person.777777", "penhallow ada", "x", "skarn", "patron quill sk7", "nobody has this"):
        looks[f"search “{words}”"] = page(search=words)
    criteria = 'membership is "Patron" and town starts with "Sk" and visits_last_year >= 25'
    looks["criteria"] = page(criteria=criteria)
    looks["criteria, by town"] = page(criteria=criteria, sort="-town")
    looks["count of a search"] = lambda: count_contacts(database, SYSTEM, wanted=Wanted(search="wren"), now=NOW)
    looks["count of criteria"] = lambda: count_contacts(database, SYSTEM, wanted=Wanted(criteria=criteria), now=NOW)
    for look in looks.values():
        look()
    built = seconds(lambda: print(f"  {len(tend_indexes(database, NOW))} indexes made"))
    print(f"  in the background after the first sorts {built:.0f} s")
    slowest = 0.0
    for name, look in looks.items():
        look()
        taken = statistics.median(seconds(look) for _ in range(5)) * 1_000
        slowest = max(slowest, taken)
        print(f"  {name:32} {taken:7.0f} ms")
    print(f"  slowest median                   {slowest:7.0f} ms (300 ms are meant)")


def main(people: int = PEOPLE) -> None:
    """Bring the people in, copy the same rows, look around."""
    with tempfile.TemporaryDirectory() as name:
        directory = Path(name)
        directory.chmod(0o755)
        write_people(directory / "people.csv", people)
        cluster = Cluster(directory / "postgres", PORT)
        cluster.start()
        try:
            upgrade(cluster.url())
            database = Database(cluster.url())
            found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=8_041))
            steps: list[tuple[str, float]] = []

            def step(phase: str, done: int, total: int) -> None:
                if not steps or steps[-1][0] != phase:
                    steps.append((phase, time.perf_counter()))

            whole = seconds(
                lambda: import_file(
                    database,
                    SYSTEM,
                    filename="people.csv",
                    content=pieces(directory / "people.csv"),
                    topic="field_walks",
                    legal_basis="Signed the list at the open day",
                    now=NOW,
                    hasher=address_hasher(b"a secret for the bench"),
                    step=step,
                )
            )
            print(f"import of {people:,} people, ledger included")
            for (phase, began), (_, ended) in zip(steps, [*steps[1:], ("", time.perf_counter())], strict=True):
                print(f"  {phase:32} {ended - began:7.1f} s")
            memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            copied = copy_again(database, directory / "rows")
            print(f"  whole {whole:.1f} s, memory {memory:.0f} MB (500 MB are meant)")
            print(
                f"  COPY of the same rows into the same table {copied:.1f} s: ratio {whole / copied:.2f} (2 is meant)"
            )
            with database.transaction() as tx:
                psycopg_connection(tx).execute("ANALYZE")
            print("the contact table")
            look_around(database)
            database.close()
        finally:
            cluster.stop()


if __name__ == "__main__":
    main()
