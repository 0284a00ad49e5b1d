"""Shared blocks: the same words wherever they stand, in the language around them, and nothing looked up when they are read."""

from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.test_inlay import context
from tests.core.test_languages import FOOTER
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.messages import (
    Arm,
    Block,
    Columns,
    ForEach,
    LetterMaker,
    MessageContent,
    Only,
    Paragraph,
    Shared,
    check_message,
    plain_links,
)
from uvarovite.core.messages.document import Basis, OtherWords
from uvarovite.core.messages.shared_blocks import shared_in, with_shared_now, without_shared

HOURS = MessageContent(
    subject="Hours",
    blocks=(Paragraph(text='Open, @{first_name else "friend"}'), Paragraph(text="until five")),
    others=(OtherWords(language="de", subject="Zeiten", blocks=(Paragraph(text="Offen bis fünf"),)),),
)
OLD = Shared(id="h", message_id=7, name="Old hours", blocks=(Paragraph(text="Closed"),))
plain = st.builds(
    lambda text: Paragraph(text=text), st.sampled_from(["Walks", "@{town}", "@{if volunteer}Thanks@{end}"])
)


def nested(inner: st.SearchStrategy[Block]) -> st.SearchStrategy[Block]:
    several = st.lists(inner, max_size=3).map(tuple)
    return st.one_of(
        st.builds(lambda one, two: Columns(columns=(one, two)), several, several),
        st.builds(
            lambda some, rest: Only(arms=(Arm(criteria="volunteer", blocks=some),), otherwise=rest), several, several
        ),
        st.builds(
            lambda some, rest: ForEach(variable="s", listed="adopted_specimens", blocks=some, otherwise=rest),
            several,
            several,
        ),
    )


blocks: st.SearchStrategy[tuple[Block, ...]] = st.lists(
    st.recursive(st.one_of(plain, st.just(OLD)), nested, max_leaves=6), max_size=4
).map(tuple)


def words_of(number: int) -> tuple[str, MessageContent] | None:
    return ("Hours", HOURS) if number == 7 else None


@given(blocks)
def test_a_shared_block_reads_like_its_words_as_the_messages_own(written: tuple[Block, ...]) -> None:
    content = with_shared_now(MessageContent(subject="Walks", blocks=(*written, OLD)), words_of)
    own = without_shared(content)
    assert shared_in(own) == set()
    assume(not check_message(content, FIELDS))
    assert check_message(own, FIELDS) == []
    for record in (ADA, NOBODY):
        letters = [
            LetterMaker(words, FIELDS).render(record, context(), plain_links(), FOOTER) for words in (content, own)
        ]
        assert letters[0].text == letters[1].text
        # A block within another ends its line twice.
        assert letters[0].html.replace("\n", "") == letters[1].html.replace("\n", "")


@given(blocks)
def test_every_shared_block_says_what_it_says_now_and_nothing_else_changes(written: tuple[Block, ...]) -> None:
    content = MessageContent(subject="Walks", blocks=written)
    now = with_shared_now(content, words_of)
    assert shared_in(now) == shared_in(content)
    told = now.model_dump_json()
    assert told.count("Old hours") == 0
    assert told.count('"Hours"') == content.model_dump_json().count("Old hours")
    back = with_shared_now(now, lambda _: ("Old hours", MessageContent(blocks=OLD.blocks)))
    assert back == content
    assert with_shared_now(content, lambda _: None) == content


def test_a_shared_block_is_in_the_language_of_the_words_around_it() -> None:
    main = (OLD,)
    content = MessageContent(
        subject="Walks",
        blocks=main,
        others=(
            OtherWords(language="de", subject="Wege", blocks=main, basis=Basis(subject="Walks", blocks=main)),
            OtherWords(language="pl", subject="Spacery", blocks=main),
        ),
    )
    now = with_shared_now(content, words_of)
    german, polish = now.others
    assert german.basis is not None
    english = Shared(id="h", message_id=7, name="Hours", blocks=HOURS.blocks)
    assert now.blocks == polish.blocks == german.basis.blocks == (english,)
    assert german.blocks == (english.model_copy(update={"blocks": HOURS.others[0].blocks}),)


def test_what_is_wrong_in_a_shared_block_is_told_where_it_stands() -> None:
    wrong = Shared(message_id=7, blocks=(Paragraph(text="@{twn}"),))
    [problem] = check_message(MessageContent(subject="Walks", blocks=(Paragraph(text="a"), wrong)), FIELDS)
    assert problem.part == "blocks.1.blocks.0.text"
