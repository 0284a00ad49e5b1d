"""Indexes for sorting: made when a column is sorted by, used then, and dropped when nobody needs them."""

from datetime import timedelta

import psycopg
import pytest

from tests.support.importing import import_people
from tests.support.museum import NOW, Museum
from tests.support.plans import read_whole
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts import FieldType
from uvarovite.services.contacts.fields import FieldDraft, make_field, remove_field
from uvarovite.services.selection.table import Wanted, contact_page
from uvarovite.store.cluster import Cluster
from uvarovite.store.contacts import indexes as table_indexes
from uvarovite.store.contacts.indexes import BY_NAME, WORDS, index_name, tend_indexes
from uvarovite.store.database import run_sql


@pytest.fixture(autouse=True)
def many(monkeypatch: pytest.MonkeyPatch, museum: Museum) -> None:
    """Ten contacts are many."""
    monkeypatch.setattr(table_indexes, "SORTED_AT_ONCE", 5)
    with psycopg.connect(museum.database.url, autocommit=True) as connection:
        connection.execute("ANALYZE contact")


def preparing(museum: Museum, sort: str) -> bool:
    return contact_page(museum.database, SYSTEM, wanted=Wanted(), sort=sort, now=NOW).preparing


def indexes(museum: Museum) -> set[str]:
    with museum.database.transaction() as tx:
        rows = run_sql(tx, "SELECT indexname FROM pg_indexes WHERE tablename = 'contact'")
    return {row.indexname for row in rows}


def test_a_column_gets_its_index_when_it_is_sorted_by_and_loses_it_when_nobody_does(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        run_sql(tx, "DELETE FROM sorted_column")
    assert tend_indexes(museum.database, NOW) == [f"made {WORDS}"]
    assert not {name for name in indexes(museum) if name.startswith("contact_field_")}
    assert preparing(museum, "name") is False
    assert preparing(museum, "address") is False
    assert preparing(museum, "-town") is True
    assert tend_indexes(museum.database, NOW) == ["made contact_field_town"]
    assert preparing(museum, "town") is False
    assert tend_indexes(museum.database, NOW) == []
    later = NOW + timedelta(days=61)
    assert tend_indexes(museum.database, later) == ["dropped contact_field_town"]


def test_the_index_is_what_the_page_is_read_by(museum: Museum) -> None:
    preparing(museum, "town")
    tend_indexes(museum.database, NOW)
    with museum.database.transaction() as tx:
        run_sql(tx, "SET LOCAL enable_seqscan = off")
        run_sql(tx, "SET LOCAL enable_sort = off")
        field = table_indexes.load_fields(tx)["town"]
        key = table_indexes.sort_key_sql(field)
        plan = run_sql(
            tx,
            f"EXPLAIN SELECT id FROM contact WHERE deleted_at IS NULL AND {key} IS NOT NULL ORDER BY {key}, id LIMIT 100",
        )
    assert any(index_name("town") in row[0] for row in plan)


def test_what_was_broken_off_is_made_anew_and_two_are_never_at_it_at_once(museum: Museum, cluster: Cluster) -> None:
    tend_indexes(museum.database, NOW)
    preparing(museum, "town")
    with psycopg.connect(museum.database.url, autocommit=True) as other:
        other.execute("SELECT pg_advisory_lock(hashtext('sort indexes'))")
        assert tend_indexes(museum.database, NOW) == []
        other.execute("SELECT pg_advisory_unlock_all()")
    tend_indexes(museum.database, NOW)
    keeper = cluster.keeper_url(museum.database.url.rsplit("/", 1)[1])
    with psycopg.connect(keeper, autocommit=True) as connection:
        connection.execute("UPDATE pg_index SET indisvalid = false WHERE indexrelid = 'contact_field_town'::regclass")
    assert tend_indexes(museum.database, NOW) == ["dropped contact_field_town", "made contact_field_town"]


def test_a_field_that_goes_takes_its_index_along(museum: Museum) -> None:
    key = make_field(museum.database, SYSTEM, FieldDraft(key="shoe_size", label="Shoe size", type=FieldType.NUMBER))
    preparing(museum, key)
    tend_indexes(museum.database, NOW)
    assert index_name(key) in indexes(museum)
    remove_field(museum.database, SYSTEM, key, now=NOW)
    assert index_name(key) not in indexes(museum)
    assert tend_indexes(museum.database, NOW) == []


def test_a_large_import_is_done_without_them_and_they_come_back(
    museum: Museum, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(table_indexes, "LARGE_IMPORT", 2)
    preparing(museum, "town")
    tend_indexes(museum.database, NOW)
    import_people(museum, "E-mail address\none@slatepost.example\n")
    assert index_name("town") in indexes(museum)
    import_people(museum, "E-mail address\ntwo@slatepost.example\nthree@slatepost.example\n")
    assert index_name("town") not in indexes(museum)
    # People are found and sorted all the same, and more quickly again soon.
    found = contact_page(museum.database, SYSTEM, wanted=Wanted(search="three@"), sort="town", now=NOW)
    assert (len(found.rows), found.preparing) == (1, True)
    assert BY_NAME in indexes(museum)
    assert sorted(tend_indexes(museum.database, NOW)) == ["made contact_field_town", f"made {WORDS}"]
    # Where most of the table is new, the usual order is made anew as well, whatever is sorted by.
    import_people(museum, "E-mail address\n" + "".join(f"p{n}@slatepost.example\n" for n in range(40)))
    assert BY_NAME not in indexes(museum)
    assert contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW).rows
    assert f"made {BY_NAME}" in tend_indexes(museum.database, NOW)


def test_words_are_found_by_their_index(museum: Museum) -> None:
    tend_indexes(museum.database, NOW)
    with read_whole(museum.database) as found:
        assert contact_page(museum.database, SYSTEM, wanted=Wanted(search="wren"), now=NOW).rows
    assert found == set()
