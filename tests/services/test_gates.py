"""Gates about earlier mail, double opt-in, the record that is kept and what a message needs; and lifting them."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import datetime, timedelta
from threading import Barrier

import pytest

from tests.support.importing import import_people
from tests.support.museum import HASHER, KEYRING, MESSAGE, NOW, PUBLIC_URL, Museum, changed_campaign, explained
from tests.support.sending import NOBODY, OK, send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again, KeptRecord
from uvarovite.core.consent import ConsentEventKind
from uvarovite.core.messages import MessageContent
from uvarovite.services.audiences.clearance import cleared_without, people_behind
from uvarovite.services.campaigns.campaigns import CampaignView, get_campaign, save_campaign
from uvarovite.services.campaigns.releases import preview, release
from uvarovite.services.consent.by_hand import record_by_hand
from uvarovite.services.consent.topics import save_topic
from uvarovite.services.contacts.editing import change_value, record_consent
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.services.messages.messages import save_message
from uvarovite.services.organisation.frequency import FrequencyLimits, change_limits
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import run_sql

CLEARED = {"M-01", "M-02", "M-03", "M-04", "M-05"}


def another(museum: Museum, name: str = "Second", **changed: object) -> Museum:
    """The museum with a second campaign of the same audience and topic."""
    asked = changed_campaign(museum.view(), name=name, **changed)
    made = save_campaign(museum.database, SYSTEM, campaign_id=None, change=asked, revision=None, now=NOW)
    return replace(museum, campaign_id=made.id)


def new_words(museum: Museum, name: str = "Other", content: MessageContent = MESSAGE) -> int:
    return save_message(museum.database, SYSTEM, message_id=None, name=name, content=content, revision=None, now=NOW).id


def topic(museum: Museum, **changed: object) -> None:
    found = vocabulary(museum.database, SYSTEM).topics[0]
    kept = {"key": found.key, "name": found.name, "description": "", "sender_id": None, "revision": found.revision}
    save_topic(museum.database, SYSTEM, topic_id=found.id, **{**kept, **changed})  # type: ignore[arg-type]


def limit(museum: Museum, week: int | None = None, month: int | None = None, kept: str = "first_added") -> None:
    change_limits(
        museum.database, SYSTEM, FrequencyLimits(week_cap=week, month_cap=month, kept_record=KeptRecord(kept))
    )


def held(museum: Museum, now: datetime = NOW) -> dict[str, str]:
    """Who is held in the campaign, by contact number, with the gate and the reason; and who is cleared."""
    view = museum.view(now)
    assert view.clearance is not None
    told: dict[str, str] = {}
    for gate in (*(one.key for one in view.clearance.gates), None):
        for person in people_behind(
            museum.database,
            SYSTEM,
            text="everyone",
            audience_id=museum.audience_id,
            topic_id=museum.topic_id,
            campaign_id=museum.campaign_id,
            gate=gate,
            after_id=0,
            now=now,
        ):
            with museum.database.transaction() as tx:
                number = run_sql(tx, "SELECT contact_no FROM contact WHERE id = :id", {"id": person.id})[0][0]
            told[number] = f"{gate}: {person.reason}" if gate else "cleared"
    return told


def cleared(museum: Museum, now: datetime = NOW) -> set[str]:
    return {number for number, outcome in held(museum, now).items() if outcome == "cleared"}


def test_who_has_had_enough_within_a_week_or_a_month_is_held_until_it_is_over(museum: Museum) -> None:
    limit(museum, week=1, month=2)
    send_all(museum, museum.release(), NOW)
    second = another(museum, again=Again.EVERYBODY)
    assert {held(second)[one] for one in CLEARED} == {"recent: has had as much as is allowed within 7 days"}
    later = NOW + timedelta(days=7)
    assert cleared(second, later - timedelta(seconds=1)) == set()
    assert cleared(second, later) == CLEARED
    send_all(second, second.release(later), later)
    # Two within 30 days, the first of them 8 days ago.
    soon = later + timedelta(days=8)
    assert {held(second, soon)[one] for one in CLEARED} == {"recent: has had as much as is allowed within 30 days"}
    assert cleared(second, NOW + timedelta(days=30)) == CLEARED


def test_a_topic_has_caps_of_its_own(museum: Museum) -> None:
    topic(museum, week_cap=1)
    send_all(museum, museum.release(), NOW)
    same = another(museum, again=Again.EVERYBODY)
    assert "of this topic" in held(same)["M-01"]
    other = replace(another(museum, "Third", again=Again.EVERYBODY), topic_id=museum.topic_id)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE run SET topic_id = topic_id + 1")
    assert cleared(other) == CLEARED


def test_what_is_on_its_way_counts_and_what_was_refused_does_not(museum: Museum) -> None:
    limit(museum, week=1)
    run_id = museum.release()
    second = another(museum, again=Again.EVERYBODY)
    assert cleared(second) == set()
    send_all(museum, run_id, NOW, lambda number: OK if number == 1 else NOBODY)
    # Whoever was refused is suppressed now, and not held for having had too much.
    outcomes = held(second)
    assert {one for one in CLEARED if outcomes[one].startswith("recent")} == {"M-01", "M-02"}
    assert {outcomes[one].split(":")[0] for one in ("M-03", "M-04", "M-05")} == {"suppressed"}


def test_nobody_gets_a_message_or_a_campaign_again_unless_it_is_asked_for(museum: Museum) -> None:
    send_all(museum, museum.release(), NOW)
    assert {held(museum)[one] for one in CLEARED} == {"again: got this message already"}
    # Another message of the same campaign is news, unless the campaign says otherwise.
    museum.change(message_id=new_words(museum))
    assert cleared(museum) == CLEARED
    museum.change(again=Again.NEW_TO_CAMPAIGN)
    assert {held(museum)[one] for one in CLEARED} == {"again: got this campaign already"}
    museum.change(again=Again.EVERYBODY)
    assert cleared(museum) == CLEARED
    # The same message by another campaign is the same message.
    assert cleared(another(museum, message_id=museum.message_id, again=Again.NEW_TO_MESSAGE)) == set()


def test_one_of_a_household_had_it_for_all(museum: Museum) -> None:
    send_all(museum, museum.release(), NOW)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET deleted_at = now() WHERE contact_no = 'M-01'")
        run_sql(tx, "UPDATE contact SET deleted_at = NULL, address = 'gus@tinmail.example' WHERE contact_no = 'M-07'")
    # Gus is at Ada's address: the mail is there already.
    assert held(museum)["M-07"] == "again: got this message already"


def test_a_message_stays_at_the_address_that_it_went_to(museum: Museum) -> None:
    send_all(museum, museum.release(), NOW)
    change_value(
        museum.database, SYSTEM, museum.contact_id("M-01"), key="address", before="ada@slatepost.example",
        text="ada@tinmail.example", hasher=HASHER, now=NOW,
    )  # fmt: skip
    # Gus, whom Ada's record kept from it, would get it where it was read already.
    assert held(museum)["M-07"] == "again: got this message already"
    assert held(museum)["M-01"] == "again: got this message already"


def test_an_unknown_outcome_counts_as_sent(museum: Museum) -> None:
    send_all(museum, museum.release(), NOW, lambda number: OK)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE sent_mail SET accepted = FALSE")
    assert cleared(museum) == set()


def test_a_topic_with_double_opt_in_wants_the_persons_own_word(museum: Museum) -> None:
    topic(museum, double_opt_in=True)
    assert {held(museum)[one] for one in CLEARED} == {
        "consent: did not confirm from this address, and the topic demands it"
    }

    def say(kind: ConsentEventKind) -> None:
        record_by_hand(
            museum.database, SYSTEM, contact_no="M-02", topic="field_walks", kind=kind, at=NOW, wording="by hand"
        )

    # A confirmation that came by mail is entered beside the person, with its words.
    record_consent(
        museum.database,
        SYSTEM,
        museum.contact_id("M-02"),
        topic="field_walks",
        kind="confirmed",
        wording="answered “yes” from this address",
        until=None,
        now=NOW,
    )
    assert cleared(museum) == {"M-02"}
    run_id = museum.release()
    # Who leaves and is entered again by somebody else has to confirm again; it is looked at in the very last moment too.
    say(ConsentEventKind.WITHDRAWN)
    say(ConsentEventKind.GRANTED)
    assert cleared(museum) == set()
    send_all(museum, run_id)
    assert museum.states(run_id) == {"M-02": "held"}


def test_the_rule_says_which_record_of_an_address_is_kept(museum: Museum) -> None:
    assert held(museum)["M-07"].startswith("duplicate")
    limit(museum, kept="last_changed")
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET updated_at = :at WHERE contact_no = 'M-07'", {"at": NOW})
    assert (held(museum)["M-07"], held(museum)["M-01"].split(":")[0]) == ("cleared", "duplicate")
    limit(museum, kept="fullest")
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET own = '{}' WHERE contact_no = 'M-01'")
    assert held(museum)["M-07"] == "cleared"
    # Whoever gets nothing anyway keeps nobody else from it.
    record_by_hand(
        museum.database,
        SYSTEM,
        contact_no="M-07",
        topic="field_walks",
        kind=ConsentEventKind.WITHDRAWN,
        at=NOW,
        wording=".",
    )
    assert held(museum)["M-01"] == "cleared"


def test_a_message_goes_only_to_those_who_have_what_it_needs(museum: Museum) -> None:
    content = MESSAGE.model_copy(update={"needed": ("pledge", "first_name")})
    museum.change(message_id=new_words(museum, content=content))
    outcomes = held(museum)
    assert (outcomes["M-05"], outcomes["M-04"]) == ("needs: no pledge", "needs: no first name")
    assert cleared(museum) == {"M-01", "M-02", "M-03"}
    gone = MESSAGE.model_copy(update={"needed": ("shoe_size",)})
    museum.change(message_id=new_words(museum, "Shoes", gone))
    assert "needs the field “shoe_size”" in next(check for check in museum.view().checks if check.blocking).message


def test_a_lifted_gate_holds_nobody_in_that_campaign_and_the_summary_says_so(museum: Museum) -> None:
    limit(museum, week=1)
    send_all(museum, museum.release(), NOW)
    second = another(museum, again=Again.EVERYBODY)
    asked = {"text": "everyone", "topic_id": museum.topic_id, "campaign_id": second.campaign_id, "now": NOW}
    assert cleared_without(museum.database, SYSTEM, gate="recent", **asked) == 5  # type: ignore[arg-type]
    with pytest.raises(BadInput):
        second.change(lifted=["consent"])
    second.change(lifted=["recent"])
    assert "Lifted for this campaign: not contacted too recently." in second.view().summary
    told = explained(museum.database, address="ada@slatepost.example", **asked)[0]  # type: ignore[arg-type]
    assert ("recent", "lifted") in [(gate.key, gate.outcome) for gate in told.gates]
    assert museum.states(second.release()) == dict.fromkeys(sorted(CLEARED), "waiting")


@pytest.mark.parametrize(("week", "month"), [(0, None), (None, -1), (5, 4), (1_001, None)])
def test_caps_that_cannot_be_are_refused(museum: Museum, week: int | None, month: int | None) -> None:
    with pytest.raises(BadInput):
        limit(museum, week, month)
    with pytest.raises(BadInput):
        topic(museum, week_cap=week, month_cap=month)


def test_a_release_names_who_has_come_and_gone_since_it_was_looked_at(museum: Museum) -> None:
    seen = preview(museum.database, SYSTEM, museum.campaign_id, NOW)
    assert seen.clearance is not None
    # One left and one joined: the number is what it was, the people are not.
    import_people(museum, "Contact no.,E-mail address,First name\nM-20,nell@slatepost.example,Nell\n")
    for number, kind in (("M-20", ConsentEventKind.GRANTED), ("M-02", ConsentEventKind.WITHDRAWN)):
        record_by_hand(
            museum.database, SYSTEM, contact_no=number, topic="field_walks", kind=kind, at=NOW, wording="by hand"
        )
    with pytest.raises(Conflict, match=r"Come since: Nell\. Gone since: Benoît d’Ardoise\.") as fault:
        release(
            museum.database,
            SYSTEM,
            campaign_id=museum.campaign_id,
            revision=seen.revision,
            seen_cleared=seen.clearance.cleared,
            seen_message_number=1,
            public_url=PUBLIC_URL,
            keyring=KEYRING,
            now=NOW,
        )
    assert fault.value.code == "drift"
    preview(museum.database, SYSTEM, museum.campaign_id, NOW)
    assert "M-20" in museum.states(museum.release())
    assert get_campaign(museum.database, SYSTEM, museum.campaign_id, NOW).runs[0].planned == 5


def test_two_campaigns_that_are_released_in_one_moment_know_of_each_other(museum: Museum) -> None:
    limit(museum, week=1)
    second = another(museum)
    # What each of them saw: a clearance of five, before the other was released.
    seen = [(one, one.view()) for one in (museum, second)]
    together = Barrier(2)

    def attempt(one: tuple[Museum, CampaignView]) -> str:
        campaign, view = one
        together.wait()
        try:
            release(
                museum.database,
                SYSTEM,
                campaign_id=campaign.campaign_id,
                revision=view.revision,
                seen_cleared=5,
                seen_message_number=view.message_number or 0,
                public_url=PUBLIC_URL,
                keyring=KEYRING,
                now=NOW,
            )
        except (Conflict, ServiceRefusal) as fault:
            return fault.code
        return "released"

    with ThreadPoolExecutor(2) as pool:
        told = sorted(pool.map(attempt, seen))
    assert told in (["drift", "released"], ["blocked", "released"])
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM delivery")[0][0] == 5
