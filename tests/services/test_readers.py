"""How many of a campaign's people read a branch of the words, or have nothing in a field."""

import pytest

from tests.support.museum import NOW, Museum, changed_campaign
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.campaigns.campaigns import save_campaign
from uvarovite.services.campaigns.readers import blanks_among_readers, readers_of_branches
from uvarovite.services.errors import NotFound
from uvarovite.store.database import run_sql


def blanks(museum: Museum) -> dict[str, int]:
    return blanks_among_readers(museum.database, SYSTEM, museum.campaign_id, NOW)


def test_blanks_are_of_those_who_get_it(museum: Museum) -> None:
    told = blanks(museum)
    # Dai has no first name, Edda no pledge; whoever has no address is not cleared, and is not counted.
    assert [told[key] for key in ("first_name", "pledge", "town", "address")] == [1, 1, 0, 0]
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET first_name = NULL WHERE contact_no IN ('M-01', 'M-08')")
    # Hugh left the topic.
    assert blanks(museum)["first_name"] == 2


def test_a_field_that_is_required_is_counted_as_any_other(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        run_sql(
            tx,
            """INSERT INTO message_version (message_id, number, content, created_at)
                SELECT message_id, number + 1, content || '{"needed": ["first_name"]}', now() FROM message_version
                    WHERE message_id = :id""",
            {"id": museum.message_id},
        )
    assert blanks(museum)["first_name"] == 1


def test_nobody_is_counted_while_it_is_not_said_who_they_are(museum: Museum) -> None:
    view = museum.view()
    save_campaign(
        museum.database, SYSTEM, campaign_id=museum.campaign_id, change=changed_campaign(view, topic_id=None),
        revision=view.revision, now=NOW,
    )  # fmt: skip
    assert blanks(museum) == {}
    with pytest.raises(NotFound):
        blanks_among_readers(museum.database, SYSTEM, 4_711, NOW)


def branches(
    museum: Museum, *some: list[str], language: str = "", others: tuple[str, ...] = ()
) -> list[list[int | None]]:
    return readers_of_branches(
        museum.database, SYSTEM, museum.campaign_id, some, language=language, others=others, now=NOW
    )


def test_each_branch_is_read_by_those_who_meet_it_first(museum: Museum) -> None:
    everybody = 5
    in_town, named = 'town is "Skarn"', "first_name is not blank"
    told = branches(museum, [in_town], [named, in_town], [in_town, named])
    ((some, rest), (with_name, _, neither), (first, then, none)) = told
    assert isinstance(some, int) and 0 < some < everybody  # noqa: PT018 - one figure
    assert (some, rest) == (some, everybody - some)
    # Dai has no first name.
    assert with_name == everybody - 1
    assert sum(one or 0 for one in told[1]) == sum(one or 0 for one in told[2]) == everybody
    assert first == some
    assert (neither, none) == (none, everybody - (first or 0) - (then or 0))


def test_what_cannot_be_read_yet_has_no_figure_and_no_language_is_a_part_of_a_question(museum: Museum) -> None:
    assert branches(museum, ['town is "Skarn"', "town is", "volunteer"], ["volunteer or"]) == [
        [branches(museum, ['town is "Skarn"'])[0][0], None, None, None],
        [None, None],
    ]
    assert branches(museum, ["shoe is blank"]) == [[None, None]]
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET language = 'pl_PL' WHERE contact_no = 'M-01'")
    all_of_them = ["address is not blank"]
    assert branches(museum, all_of_them, language="pl", others=("pl",)) == [[1, 0]]
    assert branches(museum, all_of_them, others=("pl",)) == [[4, 0]]
    assert branches(museum, all_of_them, language="x') OR (1=1", others=("pl",)) == [[0, 0]]
    assert branches(museum, all_of_them, others=("x') OR (1=1",)) == [[5, 0]]
    view = museum.view()
    save_campaign(
        museum.database, SYSTEM, campaign_id=museum.campaign_id, change=changed_campaign(view, topic_id=None),
        revision=view.revision, now=NOW,
    )  # fmt: skip
    assert branches(museum, all_of_them) == [[None, None]]
