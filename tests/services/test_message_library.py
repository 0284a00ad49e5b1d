"""The messages that there are: copies, starters, what is put away, and versions."""

import pytest

from tests.support.museum import KEYRING, MESSAGE, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph, advice_on, check_message
from uvarovite.demo.starters import STARTERS
from uvarovite.demo.starters_in_other_languages import in_all_languages, missing_texts
from uvarovite.demo.story import founding
from uvarovite.services.errors import NotFound
from uvarovite.services.messages import library
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.store.contacts.fields import load_fields


def shelves(museum: Museum) -> dict[str, tuple[bool, bool]]:
    """By name: (put away, starter)."""
    found = library.message_list(museum.database, SYSTEM)
    return {one.name: (one.put_away_at is not None, one.is_starter) for one in found}


def test_a_copy_has_the_words_and_a_name_of_its_own(museum: Museum) -> None:
    first = library.copy_message(museum.database, SYSTEM, museum.message_id, NOW)
    second = library.copy_message(museum.database, SYSTEM, museum.message_id, NOW)
    name = get_message(museum.database, SYSTEM, museum.message_id).name
    assert (first.name, second.name) == (f"Copy of {name}", f"Copy of {name} 2")
    assert first.content == second.content == MESSAGE
    library.keep_as_starter(museum.database, SYSTEM, first.id, starter=True)
    begun = library.copy_message(museum.database, SYSTEM, first.id, NOW)
    assert begun.name == f"Copy of {name} 3"
    assert shelves(museum)[begun.name] == (False, False)


def test_what_is_put_away_is_used_on_and_comes_back(museum: Museum) -> None:
    name = get_message(museum.database, SYSTEM, museum.message_id).name
    library.put_away(museum.database, SYSTEM, museum.message_id, away=True, now=NOW)
    assert shelves(museum)[name] == (True, False)
    assert museum.view().message == name
    library.put_away(museum.database, SYSTEM, museum.message_id, away=False, now=NOW)
    assert shelves(museum)[name] == (False, False)


def test_versions_are_told_with_the_runs_that_sent_them_and_keep_their_words(museum: Museum) -> None:
    museum.release()
    changed = MessageContent(subject="Later", blocks=(Paragraph(text="Other words"),))
    name = get_message(museum.database, SYSTEM, museum.message_id).name
    save_message(museum.database, SYSTEM, message_id=museum.message_id, name=name, content=changed, revision=1, now=NOW)
    versions = library.version_list(museum.database, SYSTEM, museum.message_id)
    assert [(one.number, one.subject, len(one.runs)) for one in versions] == [
        (2, "Later", 0),
        (1, MESSAGE.subject, 1),
    ]
    assert library.get_version(museum.database, SYSTEM, museum.message_id, 1) == MESSAGE
    for wrong in (0, 3):
        with pytest.raises(NotFound):
            library.get_version(museum.database, SYSTEM, museum.message_id, wrong)


def test_a_picture_of_a_message_shows_nobodys_data(museum: Museum) -> None:
    picture = library.picture_of(museum.database, SYSTEM, museum.message_id, keyring=KEYRING, now=NOW)
    assert "Dear friend" in picture.html
    save_message(
        museum.database,
        SYSTEM,
        message_id=museum.message_id,
        name="Walks",
        content=MessageContent(subject="@{"),
        revision=1,
        now=NOW,
    )
    assert library.picture_of(museum.database, SYSTEM, museum.message_id, keyring=KEYRING, now=NOW).html == ""


@pytest.mark.parametrize("name", STARTERS)
def test_every_starter_can_be_sent_as_it_is(museum: Museum, name: str) -> None:
    with museum.database.transaction() as tx:
        fields = load_fields(tx)
    assert {field.key for field in founding(smtp_host="", smtp_port=0).fields} <= set(fields)
    whole = in_all_languages(STARTERS[name])
    assert missing_texts(STARTERS[name]) == []
    assert [other.language for other in whole.others] == ["de", "fr", "pl"]
    assert check_message(whole, fields) == []
    assert [one.key for one in advice_on(whole, fields)] == []
