"""Work that is open: kept for one person, seen by the others, in the way of a release until it is saved or thrown away."""

from typing import Any

import pytest

from tests.support.acting import acting
from tests.support.museum import KEYRING, MESSAGE, NOW, PUBLIC_URL, Museum, changed_campaign
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent
from uvarovite.services.accounts.users import create_user
from uvarovite.services.audiences.audiences import audience_list, delete_audience, save_audience
from uvarovite.services.campaigns.campaigns import get_campaign, save_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.services.messages.tests import note_test
from uvarovite.services.saving.drafts import LARGEST_DRAFT_BYTES, get_drafts, keep_draft, throw_away
from uvarovite.store.tables import DraftKind

AUDIENCE, WORDS = DraftKind.AUDIENCE, DraftKind.MESSAGE


@pytest.fixture
def two(museum: Museum) -> tuple[int, int]:
    """Ada and Ben, who work there."""
    return tuple(  # type: ignore[return-value]
        create_user(
            museum.database, SYSTEM, email=f"{name}@museum.example", name=name.title(), password="x" * 12, now=NOW
        )
        for name in ("ada", "ben")
    )


def keep(museum: Museum, user: int, body: dict[str, Any], kind: DraftKind = WORDS, seen: int = 0) -> int:
    thing = {WORDS: museum.message_id, AUDIENCE: museum.audience_id}[kind]
    kept = keep_draft(
        museum.database, acting(user), kind, thing, base={}, base_revision=1, body=body, seen=seen, now=NOW
    )
    return kept.revision


def test_a_draft_is_ones_own_and_the_others_are_told_of_it(museum: Museum, two: tuple[int, int]) -> None:
    ada, ben = two
    assert keep(museum, ada, {"name": "A"}) == 1
    assert keep(museum, ada, {"name": "AB"}, seen=1) == 2
    mine = get_drafts(museum.database, acting(ada), WORDS, museum.message_id)
    assert mine.mine is not None
    assert (mine.mine.body, mine.mine.revision, mine.others) == ({"name": "AB"}, 2, [])
    theirs = get_drafts(museum.database, acting(ben), WORDS, museum.message_id)
    assert (theirs.mine, [one.by for one in theirs.others]) == (None, ["Ada"])
    assert get_drafts(museum.database, acting(ben), WORDS, 0).others == []
    throw_away(museum.database, acting(ben), WORDS, museum.message_id)
    assert get_drafts(museum.database, acting(ada), WORDS, museum.message_id).mine is not None
    throw_away(museum.database, acting(ada), WORDS, museum.message_id)
    throw_away(museum.database, acting(ada), WORDS, museum.message_id)
    assert get_drafts(museum.database, acting(ada), WORDS, museum.message_id).mine is None


def test_two_tabs_of_one_person_never_overwrite_each_other(museum: Museum, two: tuple[int, int]) -> None:
    ada, _ = two
    keep(museum, ada, {"name": "A"})
    with pytest.raises(Conflict) as fault:
        keep(museum, ada, {"name": "B"})
    assert fault.value.code == "changed"
    assert getattr(fault.value.theirs, "body", None) == {"name": "A"}
    # What says the same is no collision: an answer that was lost is asked for again.
    assert keep(museum, ada, {"name": "A"}) == 2
    throw_away(museum.database, acting(ada), WORDS, museum.message_id)
    with pytest.raises(Conflict) as fault:
        keep(museum, ada, {"name": "C"}, seen=2)
    assert fault.value.code == "gone"


def test_what_cannot_be_kept_is_refused(museum: Museum, two: tuple[int, int]) -> None:
    ada, _ = two
    with pytest.raises(BadInput):
        keep(museum, ada, {"name": "x" * LARGEST_DRAFT_BYTES})
    with pytest.raises(BadInput):
        keep(museum, ada, {"name": float("nan")})
    with pytest.raises(NotFound):
        keep_draft(museum.database, acting(ada), WORDS, 999, base={}, base_revision=1, body={}, seen=0, now=NOW)


def test_ones_own_draft_stands_in_the_way_of_a_release_and_somebody_elses_is_named(
    museum: Museum, two: tuple[int, int]
) -> None:
    ada, ben = two

    def told(user: int | None) -> list[tuple[str, bool, str]]:
        view = get_campaign(museum.database, acting(user), museum.campaign_id, NOW)
        return [(one.code, one.blocking, one.stop) for one in view.checks if "draft" in one.code]

    def let_go(user: int) -> int:
        view = get_campaign(museum.database, acting(user), museum.campaign_id, NOW)
        assert view.clearance
        assert view.message_number
        return release(
            museum.database,
            acting(user),
            campaign_id=museum.campaign_id,
            revision=view.revision,
            seen_cleared=view.clearance.cleared,
            seen_message_number=view.message_number,
            public_url=PUBLIC_URL,
            keyring=KEYRING,
            now=NOW,
        )

    assert told(ada) == []
    keep(museum, ada, {"name": "A"})
    keep(museum, ada, {"name": "A"}, kind=AUDIENCE)
    assert sorted(told(ada)) == [("draft_audience", True, "who"), ("draft_message", True, "words")]
    assert sorted(told(ben)) == [("others_draft_audience", False, "who"), ("others_draft_message", False, "words")]
    with pytest.raises(ServiceRefusal) as fault:
        let_go(ada)
    assert (fault.value.code, "did not save them" in fault.value.message) == ("blocked", True)
    assert let_go(ben) > 0


def test_saving_forgets_the_draft_and_removing_forgets_everybodys(museum: Museum, two: tuple[int, int]) -> None:
    ada, ben = two
    keep(museum, ada, {"name": "A"})
    keep(museum, ben, {"name": "B"})
    saved = save_message(
        museum.database,
        acting(ada),
        message_id=museum.message_id,
        name="Walks",
        content=MESSAGE.model_copy(update={"subject": "new"}),
        revision=1,
        now=NOW,
    )
    assert saved.revision == 2
    assert get_drafts(museum.database, acting(ada), WORDS, museum.message_id).mine is None
    assert get_drafts(museum.database, acting(ben), WORDS, museum.message_id).mine is not None

    made = save_audience(
        museum.database, acting(ada), audience_id=None, name="Few", text='town is "Skarn"', revision=None, now=NOW
    )
    keep_draft(museum.database, acting(ben), AUDIENCE, made.id, base={}, base_revision=1, body={}, seen=0, now=NOW)
    delete_audience(museum.database, SYSTEM, made.id)
    assert get_drafts(museum.database, acting(ben), AUDIENCE, made.id).mine is None


def test_whoever_is_late_is_told_who_was_quicker_and_how_it_stands(museum: Museum, two: tuple[int, int]) -> None:
    ada, ben = two
    database = museum.database
    view = museum.view()
    save_campaign(
        database,
        acting(ada),
        campaign_id=museum.campaign_id,
        change=changed_campaign(view, name="Spring"),
        revision=view.revision,
        now=NOW,
    )
    for user, words in ((ben, "Ada changed this campaign meanwhile."), (ada, "in another tab")):
        with pytest.raises(Conflict, match=words) as fault:
            save_campaign(
                database,
                acting(user),
                campaign_id=museum.campaign_id,
                change=changed_campaign(view, name="Summer"),
                revision=view.revision,
                now=NOW,
            )
        assert getattr(fault.value.theirs, "name", None) == "Spring"
    audience = audience_list(database, SYSTEM)[0]

    def save(user: int, town: str) -> None:
        save_audience(
            database,
            acting(user),
            audience_id=audience.id,
            name=audience.name,
            text=f'town is "{town}"',
            revision=audience.revision,
            now=NOW,
        )

    save(ada, "Skarn")
    with pytest.raises(Conflict, match="Ada changed this audience") as late:
        save(ben, "Breccia")
    assert getattr(late.value.theirs, "text", None) == 'town is "Skarn"'


def test_what_was_tested_stands_on_the_run_sheet_as_long_as_the_words_are_the_same(
    museum: Museum, two: tuple[int, int]
) -> None:
    ada, _ = two

    def told() -> list[tuple[str, str, str, bool]]:
        return [(one.by, one.to, one.shown, one.same) for one in museum.view().tests]

    def send(accepted: bool, message_id: int = museum.message_id, content: MessageContent | None = None) -> None:
        note_test(
            museum.database,
            acting(ada),
            message_id=message_id,
            content=content or get_message(museum.database, SYSTEM, museum.message_id).content,
            contact_id=1,
            to_address="ada@museum.example",
            accepted=accepted,
            now=NOW,
        )

    send(False)
    assert told() == []
    send(True)
    [(by, to, shown, same)] = told()
    assert (by, to, same) == ("Ada", "ada@museum.example", True)
    assert shown
    save_message(
        museum.database,
        acting(ada),
        message_id=museum.message_id,
        name="Walks",
        content=MESSAGE.model_copy(update={"subject": "other words"}),
        revision=1,
        now=NOW,
    )
    assert [one[3] for one in told()] == [False]
    # What was sent before it was saved, or from a message that is gone, counts for the same words.
    send(True, message_id=999, content=MESSAGE.model_copy(update={"subject": "other words"}))
    assert [one[3] for one in told()] == [True, False]
