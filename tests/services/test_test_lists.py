"""Whom tests go to by name: kept as they are typed, once each, within bounds."""

import pytest

from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.test_lists import (
    LONGEST_NAME,
    MOST_ADDRESSES,
    MOST_LISTS,
    keep_test_list,
    readers_of_tests,
    remove_test_list,
)


def lists(museum: Museum) -> dict[str, list[str]]:
    return {one.name: one.addresses for one in readers_of_tests(museum.database, SYSTEM).lists}


def keep(museum: Museum, name: str, *addresses: str) -> None:
    keep_test_list(museum.database, SYSTEM, name=name, addresses=list(addresses), now=NOW)


def test_a_list_is_kept_under_its_name_replaced_and_forgotten(museum: Museum) -> None:
    keep(museum, "  Two   readers ", "a@readers.example", "b@readers.example", "a@readers.example")
    keep(museum, "Board", "c@readers.example")
    assert lists(museum) == {
        "Board": ["c@readers.example"],
        "Two readers": ["a@readers.example", "b@readers.example"],
    }
    keep(museum, "Board", "d@readers.example")
    assert lists(museum)["Board"] == ["d@readers.example"]
    board = readers_of_tests(museum.database, SYSTEM).lists[0]
    remove_test_list(museum.database, SYSTEM, board.id)
    assert list(lists(museum)) == ["Two readers"]
    with pytest.raises(NotFound):
        remove_test_list(museum.database, SYSTEM, board.id)


@pytest.mark.parametrize(
    ("name", "addresses", "words"),
    [
        (" ", ["a@readers.example"], "Give the list a name"),
        ("a" * (LONGEST_NAME + 1), ["a@readers.example"], "Give the list a name"),
        ("Board", [], "one to"),
        ("Board", [f"a{number}@readers.example" for number in range(MOST_ADDRESSES + 1)], "one to"),
        ("Board", ["nobody"], "@"),
        ("Board", ["a@readers.example\r\nBcc: b@readers.example"], "address"),
    ],
)
def test_what_is_no_list_of_tests_is_refused(museum: Museum, name: str, addresses: list[str], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        keep(museum, name, *addresses)
    assert lists(museum) == {}


def test_there_are_only_so_many_lists_and_each_can_still_be_changed(museum: Museum) -> None:
    for number in range(MOST_LISTS):
        keep(museum, f"List {number}", "a@readers.example")
    with pytest.raises(BadInput, match="Remove one first"):
        keep(museum, "One more", "a@readers.example")
    keep(museum, "List 1", "b@readers.example")
    assert lists(museum)["List 1"] == ["b@readers.example"]
