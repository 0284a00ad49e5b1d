"""Erasing finds everything: whatever was ever written about somebody, in whichever table, is gone afterwards."""

from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import psycopg.errors
import pytest
import sqlalchemy.exc

from tests.services.test_leaving_in_flight import leave
from tests.support.acting import acting
from tests.support.importing import choices, import_people, preview, preview_again
from tests.support.museum import HASHER, KEYRING, MESSAGE, NOW, Museum
from tests.support.sending import LATER, NO_WORD, send_all
from tests.support.till import Till
from tests.support.web import EMAIL, PASSWORD
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts.users import create_user
from uvarovite.services.consent.suppressions import import_list_of_addresses
from uvarovite.services.contacts import duplicates, editing, post
from uvarovite.services.imports import writing
from uvarovite.services.imports.standing import get_import
from uvarovite.services.messages.tests import note_test
from uvarovite.services.responses.inbound import act_on_next, take_in
from uvarovite.services.responses.tracking import Seen, record_seen
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.store.database import run_sql
from uvarovite.store.tables import metadata

# Every word that is hers alone: none of them may be found anywhere afterwards.
WORDS = ("zzyx", "qwmark", "vvnote", "wwtown", "jjreason", "kkwording", "uuagent", "m-77", "m-78")
FILE = (
    "Contact no.,E-mail address,First name,Last name,Town,Language\n"
    "M-77,Zzyx.One@slatepost.example,Zzyxa,Qwmark,Wwtown,en\n"
)
WALKS = {"topic": "field_walks", "legal_basis": "Signed a list"}


def found(museum: Museum) -> dict[str, set[str]]:
    """The tables in which any of the words still stands, staging tables too."""
    told: dict[str, set[str]] = {}
    with museum.database.transaction() as tx:
        tables = [row.name for row in run_sql(
            tx, "SELECT quote_ident(tablename) AS name FROM pg_tables WHERE schemaname = 'public'"
        )]  # fmt: skip
        for table in tables:
            for row in run_sql(tx, f"SELECT lower(CAST({table} AS text)) AS text FROM {table}"):
                # Bytes are written in hexadecimal digits.
                words = {word for word in WORDS if word in row.text or word.encode().hex() in row.text}
                if words:
                    told.setdefault(table, set()).update(words)
    return told


def live_through_everything(museum: Museum, directory: Path) -> None:
    """Somebody is brought in twice, edited, noted, written to, merged, corrected, and stands in files of every state."""
    import_people(museum, FILE, **WALKS)
    import_people(museum, FILE.replace("M-77", "M-78").replace("Zzyxa", "Zzyxb"), **WALKS)
    her, twin = museum.contact_id("M-77"), museum.contact_id("M-78")
    editing.add_note(museum.database, SYSTEM, her, "vvnote: prefers post", now=NOW)
    post.refuse_post(museum.database, SYSTEM, twin, wording="kkwording: no letters", now=NOW)
    editing.change_tag(museum.database, SYSTEM, her, "walker", put=True, now=NOW)
    for kind in ("confirmed", "granted"):
        editing.record_consent(
            museum.database, SYSTEM, her, topic="field_walks", kind=kind, wording="kkwording on the telephone", until=None,
            now=NOW,
        )  # fmt: skip
    editing.change_value(
        museum.database, SYSTEM, her, key="town", before="Wwtown", text="Wwtown Upper", hasher=HASHER, now=NOW
    )
    run_id = museum.release()
    send_all(museum, run_id, answer_to=lambda number: LATER if number == 1 else NO_WORD)
    send_all(museum, run_id, NOW + timedelta(hours=5))
    delivery = museum.delivery_id(run_id, "M-77")
    assert record_seen(museum.database, [Seen(delivery, None, "GET", "uuagent/1", NOW)]) == 1
    leave(museum, delivery)
    letter = b"From: Zzyxa <zzyx.one@slatepost.example>\nSubject: Re: walks\n\nQwmark, says Zzyxa.\n"
    take_in(
        museum.database,
        raw=letter,
        sender="zzyx.one@slatepost.example",
        recipients=["walks@skarnmuseum.example"],
        now=NOW,
    )
    act_on_next(museum.database, keyring=KEYRING, now=NOW)
    duplicates.merge(museum.database, SYSTEM, kept_id=her, gone_ids=[twin], choices={}, now=NOW)
    editing.change_value(
        museum.database, SYSTEM, her, key="address", before="Zzyx.One@slatepost.example", text="zzyx.two@tinmail.example",
        hasher=HASHER, now=NOW,
    )  # fmt: skip
    editing.suppress_person(museum.database, SYSTEM, her, topic=None, reason="jjreason", now=NOW)
    lists = b"E-mail,Reason\nzzyx.one@slatepost.example,jjreason\n"
    import_list_of_addresses(museum.database, SYSTEM, lists, filename="x.csv", now=NOW)
    till = Till(museum, directory)
    till.put("zzyx.two@tinmail.example", "Zzyxa", "Wwtown")
    till.write(till.pull())
    till.run("DELETE FROM customer WHERE first_name = 'Zzyxa'")
    till.write(till.pull())
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    with museum.database.transaction() as tx:
        kept = "INSERT INTO idempotency_key SELECT id, 'a-key', '', :now, 200, 'application/json', 'Zzyxa' FROM user_account"
        run_sql(tx, kept, {"now": NOW})
    for shown, to in ((her, "signe.vale@skarnmuseum.example"), (museum.contact_id("M-01"), "Zzyx.Two@tinmail.example")):
        note_test(
            museum.database, acting(1), message_id=museum.message_id, content=MESSAGE, contact_id=shown, to_address=to, accepted=True, now=NOW,
        )  # fmt: skip
    # Files that are looked at, and one whose rows are refused.
    preview(museum, FILE)
    preview(museum, FILE.replace("M-77", "").replace("Zzyx.One@slatepost.example", "zzyx.one@slatepost.example"))
    preview(museum, "A,B\nZzyxa,Qwmark\n")
    import_people(museum, FILE.replace("Zzyx.One@", "zzyx.one@slatepost.example; Zzyx.One@"))


def test_nothing_of_an_erased_person_is_found_anywhere(museum: Museum, tmp_path: Path) -> None:
    live_through_everything(museum, tmp_path)
    before = found(museum)
    # The test holds something only if there was something to find.
    assert {
        "contact", "contact_search", "contact_note", "contact_change", "change_set", "consent_event", "consent",
        "address_closing", "suppression", "delivery", "sent_mail", "response_event", "import_file", "import_piece",
        "import_refusal", "inbound_mail", "source_row", "idempotency_key", "test_mail",
    } <= before.keys()  # fmt: skip
    assert any(table.startswith("import_rows_") for table in before)
    her = Selection(ids=(museum.contact_id("M-77"),), seen=1)
    bulk.erase(museum.database, SYSTEM, her, hasher=HASHER, now=NOW + timedelta(days=1))
    assert found(museum) == {}


def test_every_table_that_holds_words_about_contacts_is_known_here() -> None:
    """A new table with a contact in it has to be looked at: is it emptied by an erasure?"""
    known = {
        "address_closing", "audience_member", "audience_snapshot", "consent", "consent_event", "contact_change",
        "contact_note", "contact_search", "contact_tag", "delivery", "inbound_mail", "own_limit", "post_refusal", "printed_letter", "proof_seen", "response_event", "sent_mail", "sign_up", "source_row", "test_mail", "tracking_wish",
    }  # fmt: skip
    about = {
        table.name
        for table in metadata.tables.values()
        if any(column.name in ("contact_id", "left_by") for column in table.columns)
    }
    assert about == known


def test_a_file_that_holds_an_erased_person_is_dropped_and_its_owner_told(museum: Museum) -> None:
    import_people(museum, FILE)
    theirs, another = preview(museum, FILE), preview(museum, "E-mail\nkim@slatepost.example\n")
    her = Selection(ids=(museum.contact_id("M-77"),), seen=1)
    bulk.erase(museum.database, SYSTEM, her, hasher=HASHER, now=NOW)
    standing = get_import(museum.database, SYSTEM, theirs.id)
    assert (standing.state, standing.fault) == (
        "failed",
        "Somebody in this file asked to be forgotten meanwhile, so it was dropped. Import it again without them.",
    )
    assert writing.write_import(
        museum.database, SYSTEM, another.id, topic=None, legal_basis="", now=NOW
    ).new == 1  # fmt: skip
    again = preview(museum, FILE)
    said = choices(again)
    assert [row.code for row in preview_again(museum, again, columns=[replace(said[0]), *said[1:]]).refusals] == [
        "erased"
    ]


@pytest.mark.parametrize(
    "change", ['evidence = \'{"wording": "x"}\'', "evidence = '{}'", "evidence = '{}', kind = 'granted'"]
)
def test_the_ledger_lets_go_of_nothing_while_a_person_is_there(museum: Museum, change: str) -> None:
    with pytest.raises(sqlalchemy.exc.DBAPIError) as fault, museum.database.transaction() as tx:
        run_sql(tx, f"UPDATE consent_event SET {change}")
    assert isinstance(fault.value.orig, psycopg.errors.RestrictViolation)
