"""Who the organisation is, and who its messages come from."""

from dataclasses import replace
from email import message_from_bytes, policy

import pytest

from tests.support.acting import acting
from tests.support.museum import KEYRING, NOW, PUBLIC_URL, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts.users import create_user
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.organisation.identity import (
    OrganisationChange,
    OrganisationView,
    change_organisation,
    organisation_view,
)
from uvarovite.services.organisation.senders import SenderChange, remove_sender, save_sender
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import run_sql
from uvarovite.store.tables import Run


def change_of(view: OrganisationView) -> OrganisationChange:
    told = {key: getattr(view, key) for key in ("name", "postal_address", "locale", "time_zone", "list_domain")}
    return OrganisationChange(**told, revision=view.revision)


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("name", "  "),
        ("name", "x" * 201),
        ("postal_address", "\n \n"),
        ("locale", "xx_YY"),
        ("locale", ""),
        ("time_zone", "Skarn/Valley"),
        ("list_domain", "skarnmuseum"),
        ("list_domain", "signe@skarnmuseum.example"),
        ("list_domain", "skarn museum.example"),
    ],
)
def test_what_cannot_be_is_refused_by_field_and_nothing_changes(museum: Museum, field: str, value: str) -> None:
    before = organisation_view(museum.database, SYSTEM)
    with pytest.raises(BadInput) as refused:
        change_organisation(museum.database, SYSTEM, replace(change_of(before), **{field: value}))
    assert refused.value.field == field
    assert organisation_view(museum.database, SYSTEM) == before


def test_two_who_change_it_do_not_overwrite_each_other(museum: Museum) -> None:
    seen = organisation_view(museum.database, SYSTEM)
    mine = change_organisation(
        museum.database, SYSTEM, replace(change_of(seen), name="  Skarn   Museum ", locale="de_AT")
    )
    assert (mine.name, mine.locale, mine.revision) == ("Skarn Museum", "de_AT", seen.revision + 1)
    with pytest.raises(Conflict) as late:
        change_organisation(museum.database, SYSTEM, replace(change_of(seen), name="Another"))
    assert late.value.theirs == mine
    # What changes nothing is no change.
    assert change_organisation(museum.database, SYSTEM, change_of(mine)) == mine


def test_a_sender_is_changed_by_one_at_a_time_and_stays_while_something_comes_from_it(museum: Museum) -> None:
    sender = vocabulary(museum.database, SYSTEM).senders[0]
    change = SenderChange(name="New name", address=sender.address, reply_to="", revision=sender.revision)
    save_sender(museum.database, SYSTEM, sender.id, change)
    with pytest.raises(Conflict, match="Somebody else changed this sender"):
        save_sender(museum.database, SYSTEM, sender.id, change)
    with pytest.raises(Conflict, match="comes from this sender"):
        remove_sender(museum.database, SYSTEM, sender.id)


def test_a_senders_name_is_each_readers_own_and_blocks_a_release_once_its_field_is_gone(museum: Museum) -> None:
    sender = vocabulary(museum.database, SYSTEM).senders[0]
    change = SenderChange(
        name='Signe, for @{town else "all"}',
        address=sender.address,
        reply_to='walks+@{contact_no else "0"}@skarnmuseum.example',
        revision=sender.revision,
    )
    save_sender(museum.database, SYSTEM, sender.id, change)
    run_id = museum.release()
    with museum.database.transaction() as tx:
        run = tx.get(Run, run_id)
        assert run is not None
        composer = composer_of(tx, run, KEYRING)
        row = run_sql(
            tx,
            "SELECT id, address, record, consent_since FROM delivery WHERE contact_id = :id",
            {"id": museum.contact_id("M-04")},
        )[0]
    made = composer.compose(
        delivery_id=row.id, address=row.address, record_json=row.record, consent_since=row.consent_since, marked_at=NOW
    )
    mail = message_from_bytes(made.raw, policy=policy.default)
    assert str(mail["From"]) == f'"Signe, for Breccia" <{sender.address}>'
    assert str(mail["Reply-To"]) == "walks+M-04@skarnmuseum.example"
    assert "sender_words" not in [one.code for one in museum.view().checks]
    with museum.database.transaction() as tx:
        run_sql(tx, "DELETE FROM contact_field WHERE key = 'town' RETURNING key")
    [told] = [one for one in museum.view().checks if one.code == "sender_words"]
    assert told.blocking
    assert "There is no field “town”" in told.message


@pytest.mark.parametrize(
    ("name", "address", "reply_to", "field"),
    [
        ("", "a@skarnmuseum.example", "", "name"),
        ("Walks", "nowhere", "", "address"),
        ("Walks", "leaders@skarnmuseum.example", "a@b@c", "reply_to"),
        ("Walks", "WALKS@skarnmuseum.example", "", "address"),
        ("Walks for @{town}", "leaders@skarnmuseum.example", "", "name"),
        ("Walks", "leaders@skarnmuseum.example", 'a@@{town else "b"}.example', "reply_to"),
    ],
)
def test_a_sender_that_cannot_be_is_refused(museum: Museum, name: str, address: str, reply_to: str, field: str) -> None:
    with pytest.raises(ServiceRefusal) as refused:
        save_sender(
            museum.database, SYSTEM, None, SenderChange(name=name, address=address, reply_to=reply_to, revision=None)
        )
    assert getattr(refused.value, "field", None) == field


def test_what_comes_from_a_sender_is_released_by_its_people_only(museum: Museum) -> None:
    hers, others = (
        create_user(museum.database, SYSTEM, email=f"{name}@skarnmuseum.example", name=name, password="garnet-lantern-41", now=NOW)
        for name in ("Signe", "Torvald")
    )  # fmt: skip
    sender = vocabulary(museum.database, SYSTEM).senders[0]
    change = SenderChange(
        name=sender.name, address=sender.address, reply_to="", revision=sender.revision, users=[hers, hers]
    )
    save_sender(museum.database, SYSTEM, sender.id, change)
    assert vocabulary(museum.database, SYSTEM).senders[0].users == [hers]

    def blocking(user_id: int) -> set[str]:
        view = get_campaign(museum.database, acting(user_id), museum.campaign_id, NOW)
        return {check.message for check in view.checks if check.blocking}

    told = f"“{sender.name}” is released by Signe only. Ask one of them, or choose another sender."
    assert blocking(others) == {told}
    assert blocking(hers) == set()
    view = museum.view()
    assert view.clearance is not None
    ask = {
        "campaign_id": museum.campaign_id, "revision": view.revision, "seen_cleared": view.clearance.cleared,
        "seen_message_number": view.message_number, "public_url": PUBLIC_URL, "keyring": KEYRING, "now": NOW,
    }  # fmt: skip
    with pytest.raises(ServiceRefusal, match="released by Signe only"):
        release(museum.database, acting(others), **ask)
    assert release(museum.database, acting(hers), **ask)
    with pytest.raises(BadInput, match="not there any more"):
        save_sender(
            museum.database,
            SYSTEM,
            None,
            replace(change, users=[9_999], address="new@skarnmuseum.example", revision=None),
        )
