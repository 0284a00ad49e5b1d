"""Comments on words: open until somebody says that they are done, and told before a release."""

import pytest

from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.comments import MOST_COMMENTS, CommentView, add_comment, close_comment, comment_list


def say(museum: Museum, words: str, block_id: str = "b1") -> list[CommentView]:
    return add_comment(
        museum.database, SYSTEM, museum.message_id, language="", block_id=block_id, quote="Dear", words=words, now=NOW
    )


def close(museum: Museum, comment_id: int, *, done: bool = True) -> list[CommentView]:
    return close_comment(museum.database, SYSTEM, museum.message_id, comment_id, done=done, now=NOW)


def told(museum: Museum) -> list[str]:
    return [check.message for check in museum.view().checks if check.code == "comments"]


def test_comments_are_told_before_a_release_until_they_are_done(museum: Museum) -> None:
    assert told(museum) == []
    [first] = say(museum, "  Too long  ")
    assert (first.words, first.quote, first.block_id, first.done_at) == ("Too long", "Dear", "b1", None)
    assert told(museum) == ["1 comment on the words is open."]
    say(museum, "Which walk?", "")
    assert told(museum) == ["2 comments on the words are open."]
    # What is done stands behind what is open.
    assert [one.words for one in close(museum, first.id)] == ["Which walk?", "Too long"]
    assert told(museum) == ["1 comment on the words is open."]
    when = close(museum, first.id)[1].done_at
    assert when == NOW
    assert [one.done_at for one in close(museum, first.id, done=False)] == [None, None]
    assert len(comment_list(museum.database, SYSTEM, museum.message_id)) == 2
    # Whoever releases may know better.
    assert museum.release() > 0


def test_a_comment_is_of_its_own_message_and_says_something(museum: Museum) -> None:
    with pytest.raises(BadInput, match="Write what you want to say"):
        say(museum, " \n ")
    [first] = say(museum, "Too long")
    for message_id, comment_id in ((museum.message_id + 1, first.id), (museum.message_id, first.id + 1)):
        with pytest.raises(NotFound):
            close_comment(museum.database, SYSTEM, message_id, comment_id, done=True, now=NOW)
    with pytest.raises(NotFound):
        comment_list(museum.database, SYSTEM, museum.message_id + 1)
    for number in range(MOST_COMMENTS - 1):
        say(museum, f"Comment {number}")
    with pytest.raises(BadInput, match="Say first of some"):
        say(museum, "One more")
    close(museum, first.id)
    assert len(say(museum, "One more")) == MOST_COMMENTS + 1
