"""Shared blocks: written once, in every message that has them, while what was released says what it said."""

import pytest

from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph, Shared
from uvarovite.core.messages.from_files import words_of_file
from uvarovite.core.messages.shared_blocks import shared_in
from uvarovite.services.errors import BadInput
from uvarovite.services.messages import library
from uvarovite.services.messages.letter_files import message_file
from uvarovite.services.messages.messages import MessageView, get_message, save_message
from uvarovite.services.messages.shared_blocks import share
from uvarovite.store.messages import stored_words
from uvarovite.store.tables import Run


def text(words: str) -> MessageContent:
    return MessageContent(subject="Words", blocks=(Paragraph(text=words),))


def save(museum: Museum, name: str, content: MessageContent, was: MessageView | None = None) -> MessageView:
    return save_message(
        museum.database,
        SYSTEM,
        message_id=was.id if was else None,
        name=name,
        content=content,
        revision=was.revision if was else None,
        now=NOW,
    )


def shared(museum: Museum, name: str = "Hours", words: str = "Open till five") -> MessageView:
    made = save(museum, name, text(words))
    share(museum.database, SYSTEM, made.id, shared=True)
    return get_message(museum.database, SYSTEM, made.id)


def with_block(number: int) -> MessageContent:
    block = Shared(message_id=number, name="whatever", blocks=(Paragraph(text="something stale"),))
    return MessageContent(subject="Walks", blocks=(Paragraph(text="Come"), block))


def words_in(museum: Museum, message_id: int) -> tuple[str, str]:
    """The name and the words of the shared block in a message, as they are saved."""
    [block] = [one for one in get_message(museum.database, SYSTEM, message_id).content.blocks if one.kind == "shared"]
    [inner] = block.blocks
    assert isinstance(inner, Paragraph)
    return block.name, inner.text[0].text


def test_a_change_of_a_shared_block_is_in_every_message_that_has_it_but_not_in_what_was_released(
    museum: Museum,
) -> None:
    hours = shared(museum)
    name = get_message(museum.database, SYSTEM, museum.message_id).name
    walks = get_message(museum.database, SYSTEM, museum.message_id)
    saved = save(museum, name, with_block(hours.id), walks)
    # What is saved is what the block says now, whatever was on screen.
    assert words_in(museum, saved.id) == ("Hours", "Open till five")
    run_id = museum.release()
    other = save(museum, "Other", text("Nothing shared"))
    hours = save(museum, "Opening hours", text("Open till six"), hours)
    assert hours.used_in == [name]
    assert words_in(museum, saved.id) == ("Opening hours", "Open till six")
    assert get_message(museum.database, SYSTEM, saved.id).number == saved.number + 1
    assert get_message(museum.database, SYSTEM, other.id).number == 1
    with museum.database.transaction() as tx:
        run = tx.get(Run, run_id)
        assert run is not None
        assert "Open till five" in str(stored_words(tx, run.message_version_id))
    # The same once more changes nothing.
    save(museum, "Opening hours", hours.content, hours)
    assert get_message(museum.database, SYSTEM, saved.id).number == saved.number + 1
    line = next(one for one in library.message_list(museum.database, SYSTEM) if one.id == hours.id)
    assert (line.is_shared, line.used_in) == (True, [name])


def test_a_shared_block_that_is_used_stays_shared_and_holds_no_other(museum: Museum) -> None:
    hours, thanks = shared(museum), shared(museum, "Thanks", "Thank you")
    with pytest.raises(BadInput, match="cannot hold another one"):
        save(museum, "Hours", with_block(thanks.id), hours)
    user = save(museum, "User", with_block(hours.id))
    with pytest.raises(BadInput, match="It stands in User"):
        share(museum.database, SYSTEM, hours.id, shared=False)
    with pytest.raises(BadInput, match="cannot hold another one"):
        share(museum.database, SYSTEM, user.id, shared=True)
    save(museum, "User", text("on its own"), user)
    share(museum.database, SYSTEM, hours.id, shared=False)
    for number in (hours.id, 999_999):
        with pytest.raises(BadInput, match="shared no longer"):
            save(museum, "Late", with_block(number))


def test_shared_blocks_do_not_make_a_message_larger_than_can_be_kept(museum: Museum) -> None:
    many = tuple(Paragraph(text="a") for _ in range(150))
    hours = save(museum, "Hours", MessageContent(subject="Hours", blocks=many))
    share(museum.database, SYSTEM, hours.id, shared=True)
    blocks = tuple(Shared(message_id=hours.id) for _ in range(20))
    with pytest.raises(BadInput, match="The message would hold more blocks"):
        save(museum, "User", MessageContent(subject="User", blocks=blocks))
    few = save(museum, "User", MessageContent(subject="User", blocks=blocks[:12]))
    wider = MessageContent(subject="Hours", blocks=(*many, *many[:50]))
    with pytest.raises(BadInput, match="“User” would hold more blocks"):
        save(museum, "Hours", wider, get_message(museum.database, SYSTEM, hours.id))
    assert get_message(museum.database, SYSTEM, few.id).number == 1


def test_the_message_of_a_campaign_is_no_shared_block(museum: Museum) -> None:
    with pytest.raises(BadInput, match="Copy it, and share the copy"):
        share(museum.database, SYSTEM, museum.message_id, shared=True)
    hours = shared(museum)
    with pytest.raises(BadInput, match="is a shared block"):
        museum.change(message_id=hours.id)
    with pytest.raises(BadInput, match="let new ones begin as the copy"):
        library.keep_as_starter(museum.database, SYSTEM, hours.id, starter=True)


def test_a_message_in_a_file_has_its_shared_blocks_as_its_own_words(museum: Museum) -> None:
    user = save(museum, "User", with_block(shared(museum).id))
    found = words_of_file(message_file(museum.database, SYSTEM, user.id).content, "User.json").content
    assert found is not None
    assert shared_in(found) == set()
    assert found.blocks == (Paragraph(text="Come"), Paragraph(text="Open till five"))
