"""The suppression list: addresses, whole domains, single topics, lists that come in and go out, and who may lift it."""

import csv
import io

import pytest

from tests.support.museum import NOW, Museum
from tests.support.people import who
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEvidence
from uvarovite.services.consent import suppressions
from uvarovite.services.contacts import editing
from uvarovite.services.errors import BadInput, Conflict


def test_a_whole_domain_and_a_single_topic_are_suppressed(museum: Museum) -> None:
    def cleared() -> int:
        view = museum.view()
        assert view.clearance is not None
        return view.clearance.cleared

    before = cleared()
    editing.suppress_person(
        museum.database,
        SYSTEM,
        museum.contact_id("M-01"),
        topic="field_walks",
        reason="walks only by post",
        now=NOW,
    )
    # Gus has Ada's address, so neither gets it.
    assert cleared() == before - 1
    assert suppressions.suppress_by_text(museum.database, SYSTEM, "@slatepost.example", reason="their request", now=NOW)
    assert cleared() == 0
    page = suppressions.suppression_page(museum.database, SYSTEM)
    domain = next(entry for entry in page.entries if entry.domain)
    assert (domain.what, domain.liftable) == ("slatepost.example", True)
    editing.lift_suppression(museum.database, SYSTEM, domain.id, reason="they called again", now=NOW)
    assert cleared() == before - 1


def test_a_suppression_list_comes_in_and_goes_out(museum: Museum) -> None:
    content = b"E-mail;Reason\nx@y.example;complained\n@bad.example;\nnot one;\nx@y.example;by hand\n"
    report = suppressions.import_list_of_addresses(museum.database, SYSTEM, content, filename="old.csv", now=NOW)
    assert (report.added, report.already, len(report.refused)) == (2, 0, 1)
    rows = list(csv.reader(io.StringIO(suppressions.list_as_csv(museum.database, SYSTEM).lstrip("\ufeff"))))
    assert {row[0] for row in rows[1:]} == {
        "x@y.example", "'@bad.example", "ivy@slatepost.example", "jude@slatepost.example",
    }  # fmt: skip
    told = suppressions.list_as_csv(museum.database, SYSTEM).encode()
    again = suppressions.import_list_of_addresses(museum.database, SYSTEM, told, filename="out.csv", now=NOW)
    assert (again.added, again.already) == (0, 4)
    with pytest.raises(BadInput):
        suppressions.import_list_of_addresses(museum.database, SYSTEM, b"", filename="x", now=NOW)


PLAIN_LISTS = [
    b"x@y.example\nz@y.example\n",
    b"bad.example\nx@y.example\n",
    b"*@bad.example\n",
    "\ufeffx@y.example;complained\n".encode(),
]


@pytest.mark.parametrize("content", PLAIN_LISTS)
def test_a_list_without_a_line_of_names_loses_nobody(museum: Museum, content: bytes) -> None:
    report = suppressions.import_list_of_addresses(museum.database, SYSTEM, content, filename="plain.txt", now=NOW)
    assert (report.added, report.refused) == (content.count(b"\n"), [])


def test_a_list_keeps_its_topics_its_own_reasons_and_where_it_said_so(museum: Museum) -> None:
    content = (
        b"Address,Topic,Reason\nx@y.example,Field walks,moved away\n*@bad.example,,complained\n"
        b"z@y.example,Gardening,\n@bad.example,field_walks,\n"
    )
    report = suppressions.import_list_of_addresses(museum.database, SYSTEM, content, filename="old.csv", now=NOW)
    assert report.refused == [
        "row 4: There is no topic “Gardening”.",
        "row 5: A whole domain is suppressed for everything, not for one topic.",
    ]
    domain, person = suppressions.suppression_page(museum.database, SYSTEM).entries[:2]
    assert (domain.what, domain.domain, domain.reason) == ("bad.example", True, "complaint")
    assert (person.what, person.topic, person.reason) == ("x@y.example", "Field walks", "by_hand")
    assert person.evidence == ConsentEvidence(file="old.csv", row=2, why="moved away")


def test_only_the_person_lifts_what_they_closed(museum: Museum) -> None:
    suppressions.import_list_of_addresses(
        museum.database, SYSTEM, b"E-mail,Reason\nada@slatepost.example,complaint\n", filename="x", now=NOW
    )
    entry = who(museum, "M-01").suppressions[0]
    assert not entry.liftable
    with pytest.raises(Conflict, match="Only the person"):
        editing.lift_suppression(museum.database, SYSTEM, entry.id, reason="they said so", now=NOW)
