"""Who may do what, and what the audit log says of it."""

import re
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.accounts import (
    ACTIONS,
    PERMISSIONS,
    ROLES,
    SYSTEM,
    Action,
    Permission,
    Role,
    audit_words,
    permissions_of,
    token_actor,
    user_actor,
)

SCOPES = st.frozensets(st.sampled_from(Permission))


def test_each_role_may_do_more_than_the_one_before() -> None:
    assert [row.role for row in ROLES] == list(Role)
    for less, more in pairwise(Role):
        assert permissions_of(less) < permissions_of(more)
    assert permissions_of(Role.ADMINISTRATOR) == SYSTEM.permissions == frozenset(PERMISSIONS) == frozenset(Permission)


@pytest.mark.parametrize(
    ("role", "may", "may_not"),
    [
        (Role.READER, Permission.LOOK, Permission.CONTACTS),
        (Role.AUTHOR, Permission.PAUSE, Permission.RELEASE),
        (Role.AUTHOR, Permission.CONTACTS, Permission.EXPORT),
        (Role.RELEASER, Permission.ERASE, Permission.SET_UP),
        (Role.RELEASER, Permission.HAND_OUT, Permission.ACCOUNTS),
    ],
)
def test_a_role_ends_where_the_next_begins(role: Role, may: Permission, may_not: Permission) -> None:
    actor = user_actor(user_id=1, name="Signe Vale", email="signe.vale@skarnmuseum.example", role=role)
    assert actor.may(may)
    assert not actor.may(may_not)


@given(role=st.sampled_from(Role), scopes=SCOPES)
def test_a_token_may_no_more_than_it_was_given_than_its_user_and_than_a_program(
    role: Role, scopes: frozenset[Permission]
) -> None:
    token = token_actor(token_id=1, name="till", user_id=1, email="a@skarnmuseum.example", role=role, scopes=scopes)
    assert token.permissions == scopes & permissions_of(role) - {
        Permission.OWN_ACCOUNT,
        Permission.ANSWER,
        Permission.HAND_OUT,
        Permission.ACCOUNTS,
    }


def test_every_action_has_its_sentence_and_facts_make_it() -> None:
    assert set(ACTIONS) == set(Action)
    for row in ACTIONS.values():
        said = audit_words(row.action, dict.fromkeys(row.facts, 2))
        assert "{" not in said
        assert "?" not in said
        assert len(row.facts) == len(re.findall(r"\b2\b", said)), said


def test_a_sentence_counts_as_people_do() -> None:
    assert audit_words("released", {"name": "Walks", "people": 3420}) == "released Walks to 3,420 people"
    assert audit_words("released", {"name": "Walks", "people": 1}) == "released Walks to 1 person"
    assert audit_words("released", {"people": 1}) == "released ? to 1 person"
    # What another version wrote down is said as far as it can be.
    assert audit_words("walked_the_dog", {"people": 1}) == "walked the dog"
    # Facts are facts: braces in them are no places.
    assert audit_words("topic_saved", {"name": "{people}"}) == "saved the topic {people}"
