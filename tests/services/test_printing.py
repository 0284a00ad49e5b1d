"""Letters on paper: who gets one, that nobody gets two, and that it stands in their history."""

import io
from datetime import timedelta

import pytest
from pypdf import PdfReader

from tests.support.importing import import_people
from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.messages.paper import Paper
from uvarovite.sandbox.paper import PaperFault
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.campaigns import laying_out, printing
from uvarovite.services.campaigns.printing import PrintingView
from uvarovite.services.consent.records import consent_record
from uvarovite.services.contacts import duplicates, editing, people, post
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.messages.messages import save_message
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.store.campaigns import printing as store
from uvarovite.store.database import run_sql

# Without an address: Fenwick, and these. Three can be written to; each of the others is held by one gate.
FILE = """Contact no.,First name,Last name,Street,Town,Postcode,Country,Language
M-06,Fenwick,Quill,4 Adit Lane,Skarn,SK18 3GN,,en
P-01,Anke,Grünwald,7 Am Stollen,Berlin,10117,Germany,de
P-02,Bram,Wren,2 Kiln Street,Skarn,SK2 9AA,,en
P-03,Cerys,Wren,,Skarn,SK2 9AA,,en
P-04,Dora,Wren,3 Kiln Street,Skarn,,,en
P-05,Emil,Wren,4 Kiln Street,Skarn,SK2 9AA,,en
P-06,Finn,Wren,5 Kiln Street,Skarn,SK2 9AA,,en
P-07,Gwen,Wren,6 Kiln Street,Skarn,SK2 9AA,,en
"""


@pytest.fixture
def paper(museum: Museum) -> Museum:
    """The museum with people who have no e-mail address."""
    import_people(museum, FILE)
    post.refuse_post(museum.database, SYSTEM, museum.contact_id("P-05"), wording="by telephone: no letters", now=NOW)
    editing.record_consent(
        museum.database, SYSTEM, museum.contact_id("P-06"), topic="field_walks", kind="withdrawn",
        wording="at the till: no more walks", until=None, now=NOW,
    )  # fmt: skip
    bulk.pick(
        museum.database, SYSTEM, Selection(ids=(museum.contact_id("P-07"),), seen=1),
        audience_id=museum.audience_id, kind="left_out", now=NOW,
    )  # fmt: skip
    return museum


def look(museum: Museum, *, later: timedelta = timedelta()) -> PrintingView:
    return printing.get_printing(museum.database, SYSTEM, museum.campaign_id, now=NOW + later)


def begin(museum: Museum, *, seen: int = 3) -> int:
    return printing.begin_printing(
        museum.database, SYSTEM, museum.campaign_id, paper=Paper.DIN, seen_cleared=seen, now=NOW
    )


def lay_out(museum: Museum, *, seen: int = 3) -> int:
    printing_id = begin(museum, seen=seen)
    laying_out.lay_out_letters(museum.database, SYSTEM, printing_id, keyring=KEYRING, clock=lambda: NOW)
    return printing_id


def settle(museum: Museum, printing_id: int, *, printed: bool) -> None:
    printing.settle_printing(
        museum.database, SYSTEM, museum.campaign_id, printing_id, printed=printed, now=NOW + timedelta(hours=1)
    )


def pages(museum: Museum, printing_id: int) -> list[str]:
    made = printing.take_letters(museum.database, SYSTEM, museum.campaign_id, printing_id)
    assert made.name == "Walks, letters.pdf"
    return [page.extract_text() for page in PdfReader(io.BytesIO(made.content)).pages]


def held(museum: Museum) -> dict[str, list[str]]:
    """The names behind each gate and reason of the clearance for paper."""
    taken = clearance(
        museum.database, SYSTEM, text="everyone", audience_id=museum.audience_id, topic_id=museum.topic_id,
        campaign_id=museum.campaign_id, on_paper=True, now=NOW,
    )  # fmt: skip
    assert taken.matched == sum(gate.held for gate in taken.gates) + taken.cleared
    return {f"{gate.key}:{reason.key}": reason.names for gate in taken.gates for reason in gate.reasons}


def printed(museum: Museum, contact_no: str) -> list[str]:
    found = people.person(museum.database, SYSTEM, museum.contact_id(contact_no), NOW)
    return [line.campaign for line in found.printed]


def test_each_gate_holds_whom_it_should_and_the_others_get_a_letter_in_the_order_of_postcodes(paper: Museum) -> None:
    assert held(paper) == {
        "by_mail:has_address": ["Ada Thwaite-Gray", "Benoît d’Ardoise", "Ζωή Καλλέργη"],
        "postal:no_street": ["Cerys Wren"],
        "postal:no_postcode": ["Dora Wren"],
        "no_post:no_post": ["Emil Wren"],
        "no_post:left": ["Finn Wren"],
        "left_out:by_hand": ["Gwen Wren"],
    }
    asked = {"text": "everyone", "audience_id": paper.audience_id, "topic_id": paper.topic_id}
    behind = people_behind(
        paper.database, SYSTEM, **asked, campaign_id=paper.campaign_id, on_paper=True, gate="no_post", after_id=0, now=NOW
    )  # fmt: skip
    assert [(one.name, one.reason) for one in behind] == [
        ("Emil Wren", "wants no post"),
        ("Finn Wren", "left the topic"),
    ]
    with pytest.raises(BadInput):
        people_behind(
            paper.database, SYSTEM, **asked, campaign_id=paper.campaign_id, on_paper=True, gate="consent", after_id=0,
            now=NOW,
        )  # fmt: skip
    printing_id = lay_out(paper)
    told = look(paper)
    assert told.open is not None
    assert (told.open.state, told.open.letters, told.open.pages, told.open.take_out) == ("made", 3, 3, [])
    first, second, third = pages(paper, printing_id)
    assert "Bram Wren\n2 Kiln Street\nSkarn\nSK2 9AA" in first
    assert "Dear Bram" in first
    assert "SK18 3GN" in second
    assert "Am Stollen\n10117 Berlin\nGERMANY" in third


def test_nobody_gets_two_and_what_was_printed_stands_in_their_history(paper: Museum) -> None:
    with pytest.raises(Conflict, match="By now 3 are cleared"):
        begin(paper, seen=2)
    printing_id = lay_out(paper)
    with pytest.raises(Conflict, match="laid out already"):
        begin(paper)
    assert printed(paper, "P-02") == []
    settle(paper, printing_id, printed=True)
    settle(paper, printing_id, printed=True)
    settle(paper, printing_id, printed=False)
    assert printed(paper, "P-02") == ["Walks"]
    told = look(paper)
    assert (told.open, told.cleared, [line.letters for line in told.before]) == (None, 0, [3])
    assert sorted(held(paper)["printed:printed"]) == ["Anke Grünwald", "Bram Wren", "Fenwick Quill"]
    assert paper.view().printed == 3
    with pytest.raises(BadInput, match="Nobody is cleared"):
        begin(paper, seen=0)
    record = consent_record(paper.database, SYSTEM, paper.contact_id("P-02"), as_of=None, now=NOW + timedelta(days=1))
    assert [(line.about, line.words) for line in record.messages] == [("Walks", "letter on paper, printed")]


def test_what_is_thrown_away_was_got_by_nobody(paper: Museum) -> None:
    printing_id = begin(paper)
    with pytest.raises(Conflict, match="not laid out yet"):
        settle(paper, printing_id, printed=True)
    settle(paper, printing_id, printed=False)
    # Whoever lays it out meanwhile stops without a word.
    laying_out.lay_out_letters(paper.database, SYSTEM, printing_id, keyring=KEYRING, clock=lambda: NOW)
    with pytest.raises(NotFound):
        pages(paper, printing_id)
    assert (look(paper).open, look(paper).cleared, printed(paper, "P-02")) == (None, 3, [])
    assert lay_out(paper) != printing_id


def test_who_would_get_none_any_more_is_told_with_the_page_and_not_noted(paper: Museum) -> None:
    printing_id = lay_out(paper)
    post.refuse_post(paper.database, SYSTEM, paper.contact_id("M-06"), wording="wrote: no letters", now=NOW)
    editing.change_value(
        paper.database, SYSTEM, paper.contact_id("P-01"), key="street", before="7 Am Stollen", text="",
        hasher=lambda text: text, now=NOW,
    )  # fmt: skip
    told = look(paper).open
    assert told is not None
    assert [(one.name, one.why, one.page) for one in told.take_out] == [
        ("Fenwick Quill", "wants no post", 2),
        ("Anke Grünwald", "no street", 3),
    ]
    settle(paper, printing_id, printed=True)
    assert [printed(paper, number) for number in ("P-02", "M-06", "P-01")] == [["Walks"], [], []]
    assert look(paper).before[0].letters == 1
    post.allow_post(paper.database, SYSTEM, paper.contact_id("M-06"), wording="wrote again: letters, please")
    assert look(paper).cleared == 1


def test_words_that_cannot_be_laid_out_say_so_and_a_process_that_died_is_not_waited_for(
    paper: Museum, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object, **__: object) -> None:
        raise PaperFault

    printing_id = begin(paper)
    for later, state in ((timedelta(), "making"), (store.SILENT + timedelta(seconds=1), "broken")):
        told = look(paper, later=later).open
        assert told is not None
        assert told.state == state
    with monkeypatch.context() as patched:
        patched.setattr(laying_out, "lay_out", fails)
        laying_out.lay_out_letters(paper.database, SYSTEM, printing_id, keyring=KEYRING, clock=lambda: NOW)
    told = look(paper).open
    assert told is not None
    assert (told.state, told.fault) == ("broken", laying_out.TOO_MUCH)


def test_new_words_are_told_and_what_is_missing_keeps_letters_from_being_laid_out(paper: Museum) -> None:
    lay_out(paper)
    view = paper.view()
    content = MessageContent(
        subject="Two walks", blocks=(Paragraph(text="Dear @{first_name}"),), needed=("membership",)
    )
    with paper.database.transaction() as tx:
        revision = run_sql(tx, "SELECT revision FROM message WHERE id = :id", {"id": paper.message_id})[0].revision
    save_message(
        paper.database, SYSTEM, message_id=paper.message_id, name=view.message or "", content=content,
        revision=revision, now=NOW,
    )  # fmt: skip
    told = look(paper)
    assert told.open is not None
    assert told.open.stale
    # What the message needs, a letter needs too: Fenwick alone has a membership.
    assert told.cleared == 1
    paper.change(message_id=None)
    assert look(paper).missing == "Choose the message first."
    with pytest.raises(BadInput, match="Choose the message first"):
        laying_out.sample_letter(paper.database, SYSTEM, paper.campaign_id, paper=Paper.US, keyring=KEYRING, now=NOW)


def test_a_sample_is_the_first_letter_and_leaves_no_trace(paper: Museum) -> None:
    sample = laying_out.sample_letter(
        paper.database, SYSTEM, paper.campaign_id, paper=Paper.US, keyring=KEYRING, now=NOW
    )
    (page,) = PdfReader(io.BytesIO(sample.content)).pages
    assert round(float(page.mediabox.width)) == 612
    assert "Dear" in page.extract_text()
    assert look(paper).open is None


def test_a_pdf_goes_with_anybody_in_it_who_is_erased_and_after_some_days(paper: Museum) -> None:
    printing_id = lay_out(paper)
    settle(paper, printing_id, printed=True)
    bulk.erase(
        paper.database, SYSTEM, Selection(ids=(paper.contact_id("P-02"),), seen=1), hasher=lambda text: text, now=NOW
    )
    assert [(line.letters, line.kept) for line in look(paper).before] == [(3, False)]
    bulk.erase(
        paper.database, SYSTEM, Selection(ids=(paper.contact_id("P-05"),), seen=1), hasher=lambda text: text, now=NOW
    )
    with paper.database.transaction() as tx:
        assert run_sql(tx, "SELECT FROM post_refusal") == []
    import_people(paper, "Contact no.,First name,Street,Town,Postcode\nP-09,Hilda,1 Spar Yard,Skarn,SK1 1AA\n")
    second = lay_out(paper, seen=1)
    assert printing.let_go_of_letters(paper.database, NOW + store.KEPT) == 0
    assert printing.let_go_of_letters(paper.database, NOW + store.KEPT + timedelta(hours=1)) == 1
    with pytest.raises(NotFound):
        pages(paper, second)
    # Nobody said that they were printed.
    assert (look(paper).open, printed(paper, "P-09")) == (None, [])


def test_a_merge_keeps_that_somebody_wants_no_post_and_has_had_a_letter(paper: Museum) -> None:
    settle(paper, lay_out(paper), printed=True)
    kept, refused, had = (paper.contact_id(number) for number in ("P-03", "P-05", "P-02"))
    duplicates.merge(paper.database, SYSTEM, kept_id=kept, gone_ids=[refused, had], choices={}, now=NOW)
    merged = people.person(paper.database, SYSTEM, kept, NOW)
    assert merged.post_refusal is not None
    assert merged.post_refusal.wording == "by telephone: no letters"
    assert [line.campaign for line in merged.printed] == ["Walks"]
