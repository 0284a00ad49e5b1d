"""Criteria that ask about more than the record, against a museum to which things have happened."""

from datetime import UTC, date, datetime, timedelta

import pytest

from tests.support.importing import import_people
from tests.support.museum import HASHER, NOW, Museum, explained
from tests.support.sending import put_there
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.campaigns import Pace
from uvarovite.core.contacts.table_columns import TableColumn
from uvarovite.services.audiences.audiences import audience_list, delete_audience, save_audience
from uvarovite.services.audiences.explain import explain
from uvarovite.services.audiences.members import pick_one
from uvarovite.services.campaigns.campaigns import CampaignChange, save_campaign
from uvarovite.services.consent.suppressions import suppress_by_text
from uvarovite.services.consent.topics import save_topic
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.expressions.completion import complete, criteria_samples
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.services.selection.bulk import Selection, erase, tag
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.services.selection.views import save_view, view_list
from uvarovite.store.database import run_sql

# Who matches, by the last two digits of their contact numbers. Released once, two days ago: Ada and Benoît opened it,
# Zoë's open was a machine's, Ada clicked, Dai's address was refused.
ASKED = {
    "received": "01 02 03 05",
    "opened": "01 02",
    "never opened": "03 04 05 06 07 08 09 10",
    "clicked": "01",
    "bounced": "04",
    "received and never opened": "03 05",
    'opened campaign "Walks"': "01 02",
    'opened campaign "walks" within last 2 days': "01 02",
    'opened campaign "Another"': "",
    "opened within last 1 day": "",
    "opened within last 2 days": "01 02",
    "replied": "",
    'subscribed to "Field walks"': "01 02 03 04 05 06 07 09 10",
    'subscribed to "field walks" since today - 100 days': "01 02 03 04 05 06 07 09 10",
    'subscribed to "Field walks" since today - 101 days': "",
    'not subscribed to "Field walks"': "08",
    'tagged "LAMP owner"': "02 04",
    'imported from "people.csv" and town is "Breccia"': "04",
    'imported from "later.csv"': "01",
    'in audience "Fellows"': "03 05 09",
    'in audience "fellows" and not tagged "lamp owner"': "03 05 09",
    'not in audience "Fellows" and opened': "01 02",
    'any walk_bookings (walk is "scree path" and places >= 2)': "01",
    'every walk_bookings (walk starts with "Scree")': "01",
    "count(walk_bookings) > 1": "02",
    "any walk_bookings (date before today + 1 month)": "01 02",
    "any walk_bookings (price > 20 EUR)": "02",
}


def happen(museum: Museum) -> None:
    database = museum.database
    run_id = museum.release()
    when = NOW - timedelta(days=2)
    with database.transaction() as tx:
        refused = {"at": when, "refused": museum.contact_id("M-04")}
        with put_there(tx):
            run_sql(
                tx,
                """UPDATE delivery SET settled_at = :at,
                    state = CASE WHEN contact_id = :refused THEN 'refused' ELSE 'accepted' END""",
                refused,
            )
        run_sql(
            tx,
            "INSERT INTO sent_mail SELECT run_id, contact_id, :at, TRUE, address_folded FROM delivery WHERE contact_id <> :refused",
            refused,
        )
        for number, kind, rule in (
            ("M-01", "opened", None),
            ("M-01", "clicked", None),
            ("M-02", "opened", None),
            ("M-03", "opened", "scanner"),
        ):
            run_sql(
                tx,
                """INSERT INTO response_event (delivery_id, run_id, contact_id, kind, at, machine_rule, detail)
                    VALUES (:delivery, :run, :contact, :kind, :at, :rule, '{}')""",
                {
                    "delivery": museum.delivery_id(run_id, number),
                    "run": run_id,
                    "contact": museum.contact_id(number),
                    "kind": kind,
                    "at": when,
                    "rule": rule,
                },
            )
    change = CampaignChange(
        name="Another", topic_id=None, audience_id=None, message_id=None, sender_id=None, pool_id=None, pace=Pace()
    )
    save_campaign(database, SYSTEM, campaign_id=None, change=change, revision=None, now=NOW)
    two = Selection(ids=(museum.contact_id("M-02"), museum.contact_id("M-04")), seen=2)
    tag(database, SYSTEM, two, name="lamp owner", put=True, now=NOW)
    import_people(
        museum,
        "Contact no.,Town,Walk bookings\nM-01,Skarn Bridge,Scree Path | 2026-12-05 | 2 | 20.00 EUR\n",
        filename="later.csv",
    )
    import_people(
        museum,
        "Contact no.,Walk bookings\n"
        "M-02,Scree Path | 2026-12-05 | 1 | 10.00 EUR; Copper Adit | 2026-12-12 | 1 | 24.50 EUR\n",
        filename="walks.csv",
    )
    fellows = save_audience(
        database, SYSTEM, audience_id=None, name="Fellows", text='membership is "Fellow"', revision=None, now=NOW
    )
    # Ivy is added by hand.
    pick_one(database, SYSTEM, fellows.id, museum.contact_id("M-09"), kind="added", now=NOW)


def test_everything_that_can_be_asked_finds_whom_it_should(museum: Museum) -> None:
    happen(museum)
    found: dict[str, str] = {}
    for text in ASKED:
        wanted = Wanted(criteria=text)
        count = count_contacts(museum.database, SYSTEM, wanted=wanted, now=NOW)
        samples = criteria_samples(museum.database, SYSTEM, text=text, now=NOW)
        view = read_criteria(museum.database, SYSTEM, text=text, now=NOW)
        assert view.problem is None, (text, view.problem)
        assert view.matched == count
        with museum.database.transaction() as tx:
            rows = run_sql(
                tx,
                "SELECT id, right(contact_no, 2) AS no FROM contact WHERE deleted_at IS NULL ORDER BY contact_no",
            )
        numbers = {row.id: row.no for row in rows}
        if count <= 5:
            found[text] = " ".join(sorted(numbers[one.id] for one in samples.matching))
        else:
            expected = ASKED[text].split()
            found[text] = ASKED[text] if count == len(expected) else f"{count} people"
    assert found == ASKED


def test_near_misses_show_which_condition_keeps_people_out(museum: Museum) -> None:
    view = criteria_samples(
        museum.database, SYSTEM, text='town is "Skarn" and membership is "Patron" and volunteer', now=NOW
    )
    assert [person.name for person in view.matching] == ["Ada Thwaite-Gray"]
    near = {one.condition: (one.count, [person.name for person in one.people]) for one in view.near}
    assert near == {
        'town is "Skarn"': (0, []),
        'membership is "Patron"': (1, ["Edda Öttinger"]),
        "volunteer": (0, []),
    }


def test_an_audience_is_never_in_itself_and_keeps_its_name_in_others(museum: Museum) -> None:
    def save(name: str, text: str, audience_id: int | None = None, revision: int | None = None) -> int:
        saved = save_audience(
            museum.database,
            SYSTEM,
            audience_id=audience_id,
            name=name,
            text=text,
            revision=revision,
            now=NOW,
        )
        return saved.id

    inner = save("Inner", "volunteer")
    outer = save("Outer", 'in audience "Inner" and town is "Skarn"')
    with pytest.raises(BadInput, match="“Outer” → “Inner”"):
        save("Inner", 'in audience "Outer"', inner, 1)
    with pytest.raises(BadInput, match="in itself"):
        save("Inner", 'in audience "inner"', inner, 1)
    save("Innermost", "volunteer", inner, 1)
    texts = {audience.name: audience.text for audience in audience_list(museum.database, SYSTEM)}
    assert texts["Outer"] == 'in audience "Innermost" and town is "Skarn"'
    with pytest.raises(Conflict, match="Outer"):
        delete_audience(museum.database, SYSTEM, inner)
    delete_audience(museum.database, SYSTEM, outer)
    delete_audience(museum.database, SYSTEM, inner)


def test_the_commonest_values_complete_a_text(museum: Museum) -> None:
    def offered(text: str) -> list[str]:
        return [one.text for one in complete(museum.database, SYSTEM, text=text, at=len(text), now=NOW).options]

    assert offered('town is "s')[0] == '"Skarn"'
    assert '"Skellbeck"' in offered('town is "s')
    assert offered('first_name in ("ΖΩ') == ['"Ζωή"']
    assert offered("tagged ") == []
    # A caret beyond the text is at its end.
    assert complete(museum.database, SYSTEM, text="to", at=999, now=datetime.now(UTC)).options[0].text == "town"


NEAR = [
    # Any of: only whoever meets none of it misses, by all of it.
    ('volunteer and (town is "Marlby" or membership is "Friend")',
     {"volunteer": 7, 'town is "Marlby" or membership is "Friend"': 2}),
    # None of: whoever one of them alone keeps out.
    ('not (town is "Skarn" or membership is "Friend")', {'not town is "Skarn"': 3, 'not membership is "Friend"': 2}),
    # Within a group that is one of several.
    ('town is "Breccia" or (volunteer and membership is "Patron")', {"volunteer": 0, 'membership is "Patron"': 1}),
]  # fmt: skip


@pytest.mark.parametrize(("text", "counts"), NEAR)
def test_near_misses_are_found_in_groups_of_every_kind(museum: Museum, text: str, counts: dict[str, int]) -> None:
    near = {one.condition: one.count for one in criteria_samples(museum.database, SYSTEM, text=text, now=NOW).near}
    assert near == counts


def test_nobody_is_a_near_miss_who_is_in(museum: Museum) -> None:
    for text, _ in NEAR:
        view = criteria_samples(museum.database, SYSTEM, text=text, now=NOW)
        inside = {one.id for one in view.matching}
        assert not inside & {person.id for one in view.near for person in one.people}


def test_a_choice_is_searched_for_a_part_of_it(museum: Museum) -> None:
    assert read_criteria(museum.database, SYSTEM, text='membership contains "ell"', now=NOW).matched == 2
    assert read_criteria(museum.database, SYSTEM, text='membership starts with "pat"', now=NOW).matched == 1
    assert read_criteria(museum.database, SYSTEM, text='membership is "ell"', now=NOW).problem is not None


def test_a_fault_is_marked_where_the_screen_counts_it(museum: Museum) -> None:
    """An emoji is one character and two of the units that a browser counts in."""
    text = 'town is "🪨🪨" and twon is "x"'
    problem = read_criteria(museum.database, SYSTEM, text=text, now=NOW).problem
    assert problem is not None
    units = text.encode("utf-16-le")
    assert units[2 * problem.start : 2 * problem.end].decode("utf-16-le") == "twon"
    assert problem.suggestion == 'town is "🪨🪨" and town is "x"'
    found = complete(museum.database, SYSTEM, text='town is "🪨" and me', at=19, now=NOW)
    assert (found.start, found.end, found.options[0].text) == (17, 19, "membership")


def test_whoever_was_subscribed_on_a_day_is_chosen_by_it(museum: Museum) -> None:
    begin = (NOW - timedelta(days=100)).date()

    def matched(day: date) -> int | None:
        return read_criteria(museum.database, SYSTEM, text=f'subscribed to "Field walks" as of {day}', now=NOW).matched

    # All ten of the file; Hugh left a day later.
    assert [matched(begin - timedelta(days=1)), matched(begin), matched(begin + timedelta(days=1))] == [0, 10, 9]


def test_a_file_is_asked_for_everybody_whom_it_brought_anything(museum: Museum) -> None:
    for content, told in (
        ("E-mail,Tags\nbenoit@slatepost.example,walker\n", {}),
        ("Contact no.\nM-03\n", {"topic": "museum_news", "legal_basis": "Signed a list"}),
        ("Contact no.\nM-08\n", {"topic": "field_walks", "legal_basis": "Signed a list"}),
    ):
        import_people(museum, content, filename="second.csv", **told)
    # Hugh had left, so the file brought him nothing.
    found = criteria_samples(museum.database, SYSTEM, text='imported from "second.csv"', now=NOW).matching
    assert {one.name for one in found} == {"Benoît d’Ardoise", "Ζωή Καλλέργη"}


def test_an_address_is_explained_whoever_has_it(museum: Museum) -> None:
    def words(address: str) -> list[str]:
        asked = {"text": "everyone", "topic_id": museum.topic_id, "hasher": HASHER, "now": NOW}
        return explain(museum.database, SYSTEM, address=address, **asked).words  # type: ignore[arg-type]

    assert words("nobody@tinmail.example") == ["Nobody among the contacts has this address."]
    suppress_by_text(museum.database, SYSTEM, "@tinmail.example", reason="their wish", now=NOW)
    assert words("nobody@tinmail.example")[1] == (
        "The domain tinmail.example is on the suppression list: suppressed by hand."
    )
    assert words("ivy@slatepost.example") == ["The address is on the suppression list: suppressed by hand."]
    gone = Selection(ids=(museum.contact_id("M-02"),), seen=1)
    erase(museum.database, SYSTEM, gone, hasher=HASHER, now=NOW)
    assert words("benoit@slatepost.example")[1] == ("The owner of this address asked to be forgotten. It gets nothing.")


def test_somebody_who_does_not_match_is_told_what_would_hold_them_besides(museum: Museum) -> None:
    (hugh,) = explained(
        museum.database, text='town is "Marlby"', address="hugh@slatepost.example", topic_id=museum.topic_id, now=NOW
    )
    assert hugh.words.endswith("They would be held besides: left the topic.")
    assert not hugh.matched


def test_why_not_is_answered_with_the_condition_or_the_gate(museum: Museum) -> None:
    def told(text: str, address: str) -> list[str]:
        found = explained(museum.database, text=text, address=address, topic_id=museum.topic_id, now=NOW)
        return [one.words for one in found]

    patrons = 'membership is "Patron" and (town is "Skarn" or visits_last_year > 5)'
    # Ada's address is Gus's as well: each has an answer.
    assert told(patrons, "ADA@slatepost.example") == [
        "Ada Thwaite-Gray matches, and is cleared.",
        'Gus Thwaite-Gray does not match: membership is "Patron" (theirs: Friend).',
    ]
    assert told(patrons, "benoit@slatepost.example") == [
        'Benoît d’Ardoise does not match: membership is "Patron" (theirs: Friend); town is "Skarn" (theirs: Skellbeck); '
        "visits_last_year > 5 (theirs: 0)."
    ]
    assert told("everyone", "hugh@slatepost.example") == ["Hugh Garth matches, and is held: left the topic."]
    assert told("everyone", "ada@slatepost.example")[1] == (
        "Gus Thwaite-Gray matches, and is held: shares an address with somebody who gets it."
    )
    assert told('not pledge is blank and first_name is "x"', "edda@slatepost.example") == [
        'Edda Öttinger does not match: not pledge is blank (theirs: blank); first_name is "x" (theirs: Edda).'
    ]
    assert told("everyone", "nobody@slatepost.example") == []
    with pytest.raises(BadInput):
        told("everyone", "no address")
    (hugh,) = explained(
        museum.database, text="everyone", address="hugh@slatepost.example", topic_id=museum.topic_id, now=NOW
    )
    assert [gate.outcome for gate in hugh.gates] == ["passed", "passed", "held", *["not_reached"] * 3]


def test_a_renamed_topic_and_campaign_keep_their_places_and_a_fault_blocks_the_release(museum: Museum) -> None:
    database = museum.database
    text = 'subscribed to "Field walks" and never opened campaign "Walks"'
    saved = save_audience(
        database, SYSTEM, audience_id=museum.audience_id, name="Everyone", text=text, revision=1, now=NOW
    )
    save_view(
        database,
        SYSTEM,
        view_id=None,
        name="Walkers",
        criteria=text,
        columns=[TableColumn(key="town", width=120)],
        sort="name",
        revision=None,
        now=NOW,
    )
    topic = next(one for one in vocabulary(database, SYSTEM).topics if one.key == "field_walks")
    save_topic(
        database,
        SYSTEM,
        topic_id=topic.id,
        key=topic.key,
        name="Walks with a geologist",
        description="",
        sender_id=None,
        revision=topic.revision,
    )
    view = museum.view()
    change = CampaignChange(
        name="Winter walks",
        topic_id=view.topic_id,
        audience_id=view.audience_id,
        message_id=view.message_id,
        sender_id=view.sender_id,
        pool_id=view.pool_id,
        pace=Pace(batch_size=2, gap_seconds=0),
    )
    view = save_campaign(database, SYSTEM, campaign_id=view.id, change=change, revision=view.revision, now=NOW)
    renamed = 'subscribed to "Walks with a geologist" and never opened campaign "Winter walks"'
    assert (view.criteria, [one.criteria for one in view_list(database, SYSTEM)]) == (renamed, [renamed])
    assert view.clearance is not None
    assert view.clearance.matched == 9

    # A field of another type: the run sheet still opens, says so, and lets nothing out.
    save_audience(
        database,
        SYSTEM,
        audience_id=saved.id,
        name="Everyone",
        text='town starts with "Sk"',
        revision=saved.revision,
        now=NOW,
    )
    with database.transaction() as tx:
        run_sql(tx, "UPDATE contact_field SET type = 'number' WHERE key = 'town'")
    view = museum.view()
    assert view.clearance is None
    assert [check.code for check in view.checks if check.blocking] == ["criteria"]


def test_an_estimate_comes_first_where_counting_all_takes_long(museum: Museum, monkeypatch: pytest.MonkeyPatch) -> None:
    with museum.database.transaction() as tx:
        run_sql(tx, "ANALYZE contact")
    told = read_criteria(museum.database, SYSTEM, text='town is "Skarn"', estimate=True, now=NOW)
    assert (told.matched, told.total, told.estimated) == (8, 10, False)
    monkeypatch.setattr("uvarovite.services.expressions.criteria.COUNTED_WHOLE", 5)
    # So few stand on the pages that are looked at anyway.
    told = read_criteria(museum.database, SYSTEM, text='town is "Skarn"', estimate=True, now=NOW)
    assert (told.matched, told.total, told.estimated) == (8, 10, True)
    assert not read_criteria(museum.database, SYSTEM, text='town is "Skarn"', now=NOW).estimated
    assert read_criteria(museum.database, SYSTEM, text="town is", estimate=True, now=NOW).matched is None
