"""Every sentence on the run sheet is worked out from the state that it speaks of, and changes with it."""

from tests.support.importing import import_people
from tests.support.lens import look
from tests.support.museum import KEYRING, MESSAGE, NOW, Museum
from tests.support.sending import send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.services.messages.lens import LensPerson
from uvarovite.services.messages.messages import save_message
from uvarovite.services.organisation.vocabulary import vocabulary


def again_words(museum: Museum) -> str | None:
    """What is said of an earlier release."""
    return next((check.message for check in museum.view().checks if check.code == "again"), None)


def lens(museum: Museum, campaign: bool = True) -> LensPerson:
    person, _ = look(
        museum.database, MESSAGE, audience_id=museum.audience_id, topic_id=museum.topic_id, keyring=KEYRING, now=NOW,
        campaign_id=museum.campaign_id if campaign else None,
    )  # fmt: skip
    return person


def test_who_would_get_it_again_is_counted_and_not_supposed(museum: Museum) -> None:
    assert again_words(museum) is None
    send_all(museum, museum.release(), NOW)
    begin = f"This campaign was released before, on {NOW:%-d %B %Y}; "
    nobody = begin + "nobody who got it then gets anything again."
    assert again_words(museum) == nobody
    topic = vocabulary(museum.database, SYSTEM).topics[0].key
    # Somebody new is there now: still nobody gets it twice.
    import_people(museum, "E-mail address,Contact no.\nnew@slatepost.example,T-99\n", topic=topic, legal_basis="Signed")
    assert again_words(museum) == nobody
    museum.change(again=Again.EVERYBODY)
    view = museum.view()
    assert view.clearance is not None
    told = again_words(museum)
    assert told == begin + f"{view.clearance.cleared - 1} people who got it then get this as well."
    # Another message to the same people, where only the same message would be held back.
    other = save_message(
        museum.database, SYSTEM, message_id=None, name="Other", content=MESSAGE, revision=None, now=NOW
    )
    museum.change(again=Again.NEW_TO_MESSAGE, message_id=other.id)
    assert again_words(museum) == told
    museum.change(again=Again.NEW_TO_CAMPAIGN)
    assert again_words(museum) == nobody


def test_the_day_of_an_earlier_release_is_the_organisations(museum: Museum) -> None:
    late = NOW.replace(year=2027, month=7, day=1, hour=23, minute=40)
    send_all(museum, museum.release(late), late)
    # In London it is summer time: the next day has begun.
    assert "on 2 July 2027;" in next(one.message for one in museum.view(late).checks if one.code == "again")


def test_whoever_is_looked_at_is_one_of_those_who_are_counted_beside(museum: Museum) -> None:
    view = museum.view()
    assert view.clearance is not None
    assert (lens(museum).total, lens(museum).cleared) == (view.clearance.cleared, True)
    send_all(museum, museum.release(), NOW)
    after = museum.view()
    assert after.clearance is not None
    assert after.clearance.cleared == 0
    # They can be looked at still, and it is said that nobody of them is cleared.
    assert lens(museum).cleared is False
    assert lens(museum).total > 0
    assert lens(museum, campaign=False).cleared is True
