"""A file of their own for each person: who lacks one is told, and gets nothing where it is needed."""

import psycopg.errors
import pytest
import sqlalchemy.exc

from tests.core.test_messages import parse
from tests.support.acting import acting
from tests.support.lens import look
from tests.support.museum import HASHER, KEYRING, NOW, Museum
from tests.support.sending import kit_of
from tests.support.web import EMAIL, PASSWORD
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.messages.attachments import MOST_AT_HAND, NamedFile, OwnFiles, own_name
from uvarovite.core.messages.document import OtherWords
from uvarovite.services.accounts.users import create_user
from uvarovite.services.campaigns.campaigns import CampaignView
from uvarovite.services.messages import attachments
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.messages import save_message
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.saving.drafts import keep_draft
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.store.audiences.audiences import lacks_file_sql
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.records import record_of
from uvarovite.store.database import change_sql, run_sql
from uvarovite.store.messages import latest_version
from uvarovite.store.tables import Contact, DraftKind, Run


def upload(museum: Museum, name: str) -> NamedFile:
    kept = attachments.keep_attachment(
        museum.database, SYSTEM, data=f"%PDF-1.7 {name}".encode(), filename=name, now=NOW
    )
    return NamedFile(file=kept.file, name=kept.name)


def attach(museum: Museum, own: OwnFiles, *others: OtherWords) -> CampaignView:
    with museum.database.transaction() as tx:
        revision = run_sql(tx, "SELECT revision FROM message WHERE id = :id", {"id": museum.message_id})[0].revision
    words = (Paragraph(text="Here it is."),)
    content = MessageContent(subject="Your card", blocks=words, attachments=(own,), others=others)
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=revision, now=NOW
    )
    return museum.view()


def checks(view: CampaignView) -> dict[str, str]:
    return {one.code: one.message for one in view.checks}


def test_who_lacks_a_file_is_told_or_held_and_each_gets_their_own(museum: Museum) -> None:
    files = (upload(museum, "card M-01.pdf"), upload(museum, "CARD m-02.PDF"), upload(museum, "card M-99.pdf"))
    own = OwnFiles(name="card @{contact_no}.pdf", files=files)
    view = attach(museum, own)
    told = "3 people have no file for “card @{contact_no}.pdf”: their message goes without one."
    assert checks(view)["own_file_missing"] == told
    assert view.clearance is not None
    assert view.clearance.cleared == 5
    view = attach(museum, own.model_copy(update={"needed": True}))
    assert "own_file_missing" not in checks(view)
    assert view.clearance is not None
    assert view.clearance.cleared == 2
    (needs,) = [gate for gate in view.clearance.gates if gate.key == "needs"]
    # Gus, who shares Ada's address, has none either.
    assert [(one.words, one.held) for one in needs.reasons] == [("no file for “card @{contact_no}.pdf”", 4)]
    run_id = museum.release()
    assert museum.states(run_id) == {"M-01": "waiting", "M-02": "waiting"}
    kit = kit_of(museum, run_id)
    assert kit is not None
    with museum.database.transaction() as tx:
        run = tx.get(Run, run_id)
        assert run is not None
        composer = composer_of(tx, run, KEYRING, press=press_of(museum.database))
    found = {}
    for number in ("M-01", "M-02"):
        made = composer.compose(
            delivery_id=museum.delivery_id(run_id, number), address="ada@slatepost.example",
            record_json={"contact_no": number}, consent_since=None, marked_at=NOW,
        )  # fmt: skip
        found[number] = [
            (part.get_filename(), part.get_payload(decode=True)) for part in parse(made.raw).iter_attachments()
        ]
    assert found == {
        "M-01": [("card M-01.pdf", b"%PDF-1.7 card M-01.pdf")],
        "M-02": [("CARD m-02.pdf", b"%PDF-1.7 CARD m-02.PDF")],
    }


def test_files_for_readers_of_one_language_are_lacked_by_no_others(museum: Museum) -> None:
    own = OwnFiles(name="card @{contact_no}.pdf", files=(upload(museum, "card M-01.pdf"),), language="pl")
    polish = OtherWords(language="pl", subject="Karta", blocks=(Paragraph(text="Oto ona."),))
    with museum.database.transaction() as tx:
        readers = run_sql(tx, "SELECT count(*) AS n FROM contact WHERE language LIKE 'pl%'")[0].n
    assert readers == 0
    view = attach(museum, own, polish)
    assert "own_file_missing" not in checks(view)
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE contact SET language = 'pl_PL' WHERE contact_no IN ('M-01', 'M-02')")
    told = "1 person has no file for “card @{contact_no}.pdf”: their message goes without one."
    assert checks(museum.view())["own_file_missing"] == told
    view = attach(museum, own.model_copy(update={"needed": True}), polish)
    assert view.clearance is not None
    (needs,) = [gate for gate in view.clearance.gates if gate.key == "needs"]
    assert [(one.words, one.held) for one in needs.reasons] == [("no file for “card @{contact_no}.pdf”", 1)]
    # A language that is none is no part of a question: nobody reads it, and everybody reads the main words.
    hostile = "x') OR (1=1"
    odd = MessageContent(
        subject="Your card",
        blocks=(Paragraph(text="Here."),),
        attachments=(own.model_copy(update={"needed": True, "language": hostile}),),
        others=(polish.model_copy(update={"language": hostile}),),
    )
    person, _ = look(museum.database, odd, topic_id=museum.topic_id, keyring=KEYRING, now=NOW)
    assert person.total == 5
    # Without words in that language nobody knows to whom they go.
    assert checks(attach(museum, own))["words"].startswith("In attachment 1: This goes to readers of a language")


@pytest.mark.parametrize(
    "value", ["M-1", "m-1", " M-1", "M-1 ", "ß", "ẞ", "İ", "i", "É", "é", "%", "_", "\\", "'", ":x", "M  1", " "]
)
def test_the_clearance_and_the_message_agree_on_who_has_a_file(museum: Museum, value: str) -> None:
    names = ("m-1.pdf", " M-1 .pdf", "ß.pdf", "i.pdf", "é.pdf", "%.pdf", "'.pdf", ":x.pdf", "m 1.pdf", ".pdf")
    own = OwnFiles(name="@{town}.pdf", files=tuple(NamedFile(file="ab", name=one) for one in names))
    with museum.database.transaction() as tx:
        run_sql(
            tx,
            "UPDATE contact SET own = own || jsonb_build_object('town', CAST(:value AS text)) WHERE contact_no = 'M-01'",
            {"value": value},
        )
        fields = load_fields(tx)
        told = own_name(own.name, fields)
        assert told is not None
        lacks = lacks_file_sql(told, list(own.by_name()), standard=False, prefix="x_")
        rows = run_sql(tx, f"SELECT contact_no FROM contact WHERE {lacks.text}", lacks.parameters)
        contact = tx.get(Contact, museum.contact_id("M-01"))
        assert contact is not None
        by_message = told.of(record_of(contact, fields)) in own.by_name()
    assert ("M-01" not in {row.contact_no for row in rows}) == by_message


def test_more_than_a_worker_holds_at_hand_is_refused(museum: Museum) -> None:
    file = upload(museum, "card M-01.pdf")
    with museum.database.transaction() as tx:
        # As if they were large: what is said of a file is counted, its bytes are not read.
        run_sql(tx, "UPDATE attachment SET content = convert_to(repeat('x', 5000000), 'UTF8')")
    files = tuple(file.model_copy(update={"name": f"card {n}.pdf"}) for n in range(MOST_AT_HAND // 5_000_000 + 1))
    told = checks(attach(museum, OwnFiles(name="card @{contact_no}.pdf", files=files)))
    assert "100 MB are kept at hand" in told["own_files_heavy"]


def test_what_was_uploaded_for_somebody_is_erased_with_them(museum: Museum) -> None:
    """From every version and draft, and what was never saved; what is somebody else's as well stays theirs."""
    hers, his, of_skarn = (upload(museum, name) for name in ("card M-01.pdf", "card M-02.pdf", "Skarn.pdf"))
    hers_too = NamedFile(file=his.file, name="CARD m-01.docx")
    # Two that were uploaded and stand in no words.
    upload(museum, "CARD M-01.PDF")
    upload(museum, "card M-010.pdf")
    attach(museum, OwnFiles(name="card @{contact_no}", files=(hers_too, his, hers)))
    run_id = museum.release()
    attach(museum, OwnFiles(name="@{town}.pdf", files=(of_skarn,)))
    unsaved = {
        "content": {
            "attachments": [{"kind": "own", "name": "card @{contact_no}", "files": [{"name": hers.name}, 7]}, 7]
        }
    }
    signe = create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    keep_draft(
        museum.database, acting(signe), DraftKind.MESSAGE, museum.message_id, base={}, base_revision=1, body=unsaved,
        seen=0, now=NOW,
    )  # fmt: skip
    ada = Selection(ids=(museum.contact_id("M-01"),), seen=1)
    bulk.erase(museum.database, SYSTEM, ada, hasher=HASHER, now=NOW)
    with museum.database.transaction() as tx:
        kept = run_sql(tx, "SELECT name, digest FROM attachment ORDER BY name")
        told = "".join(
            row.text
            for table in ("message_version", "draft", "audit_entry", "attachment")
            for row in run_sql(tx, f"SELECT lower(CAST({table} AS text)) AS text FROM {table}")
        )
        run = tx.get(Run, run_id)
        assert run is not None
        composer = composer_of(tx, run, KEYRING, press=press_of(museum.database))
    assert [row.name for row in kept] == ["Skarn.pdf", "card M-010.pdf", "card M-02.pdf"]
    assert not [name for name in ("m-01.pdf", "m-01.docx") if name in told]
    # Whoever had the words open saves them again: the name does not come back.
    attach(museum, OwnFiles(name="card @{contact_no}", files=(hers, his)))
    with museum.database.transaction() as tx:
        version = latest_version(tx, museum.message_id)
    assert version is not None
    (own,) = version.content.attachments
    assert isinstance(own, OwnFiles)
    assert own.files == (his,)
    made = composer.compose(
        delivery_id=museum.delivery_id(run_id, "M-02"), address="benoit@slatepost.example", record_json={"contact_no": "M-02"},
        consent_since=None, marked_at=NOW,
    )  # fmt: skip
    assert [part.get_filename() for part in parse(made.raw).iter_attachments()] == ["card M-02.pdf"]


@pytest.mark.parametrize(
    "change",
    [
        'content = content || \'{"subject": "Another"}\'',
        "content = jsonb_set(content, '{attachments,0,name}', '\"@{contact_no}\"')",
        "content = jsonb_set(content, '{attachments,0,files,0,name}', '\"other.pdf\"')",
        "content = jsonb_set(content, '{attachments,0,files,9}', content->'attachments'->0->'files'->0)",
        "content = jsonb_set(content, '{attachments}', '[]')",
        "number = number + 7",
    ],
)
def test_words_let_go_of_files_and_of_nothing_else(museum: Museum, change: str) -> None:
    attach(museum, OwnFiles(name="card @{contact_no}.pdf", files=(upload(museum, "card M-01.pdf"),)))
    with pytest.raises(sqlalchemy.exc.DBAPIError) as fault, museum.database.transaction() as tx:
        run_sql(tx, f"UPDATE message_version SET {change} WHERE content->'attachments' <> '[]'")
    assert isinstance(fault.value.orig, psycopg.errors.RestrictViolation)
