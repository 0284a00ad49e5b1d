"""Which domains take mail, as a gate, in criteria, and when name servers say nothing."""

import asyncio
from datetime import datetime, timedelta

import pytest

from tests.support.museum import NOW, Museum
from tests.support.web import TestClock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.verification import NameAnswer, Verdict
from uvarovite.services.contacts.fields import FieldDraft, make_field
from uvarovite.services.contacts.people import person
from uvarovite.services.contacts.verification import check_domain, check_domains
from uvarovite.services.errors import BadInput
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.store.database import run_sql

FINE = NameAnswer(answered=True, mail_hosts=["mail.slatepost.example"])
GONE = NameAnswer(answered=True, exists=False)
SILENT = NameAnswer(answered=False)


def check(museum: Museum, answer: NameAnswer, now: datetime) -> list[str]:
    asked: list[str] = []

    async def look_up(domain: str) -> NameAnswer:
        asked.append(domain)
        return answer if domain == "slatepost.example" else FINE

    asyncio.run(check_domains(museum.database, look_up, lambda: now))
    return asked


def held(museum: Museum, now: datetime = NOW) -> dict[str, int]:
    clearance = museum.view(now).clearance
    assert clearance is not None
    return {gate.key: gate.held for gate in clearance.gates if gate.held}


def matching(museum: Museum, criteria: str) -> int:
    return count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria=criteria), now=NOW)


def test_a_domain_that_cannot_take_mail_holds_its_people_and_silence_changes_nothing(museum: Museum) -> None:
    before = held(museum)
    assert "undeliverable" not in before
    assert matching(museum, 'verification is "not checked"') == 9
    assert matching(museum, "verification is blank") == 1

    assert check(museum, GONE, NOW) == ["slatepost.example"]
    assert held(museum) == {"address": 1, "undeliverable": 9}
    assert matching(museum, 'verification is "Cannot take mail" and first_name is "Ada"') == 1
    assert matching(museum, 'not verification in ("takes mail", "not checked")') == 10
    ada = person(museum.database, SYSTEM, museum.contact_id("M-01"), NOW).verification
    assert ada is not None
    assert (ada.verdict, ada.reason, ada.checked_at) == (Verdict.CANNOT, "there is no such domain", NOW)

    # Asked again only after a day; where nobody answers, what was known stays, with its date.
    later = NOW + timedelta(days=1)
    assert check(museum, FINE, later - timedelta(minutes=1)) == []
    assert check(museum, SILENT, later) == ["slatepost.example"]
    assert held(museum, later) == {"address": 1, "undeliverable": 9}
    assert check(museum, FINE, later + timedelta(hours=1)) == ["slatepost.example"]
    assert held(museum, later + timedelta(hours=1)) == before
    assert matching(museum, 'verification is "takes mail"') == 9


def test_one_domain_can_be_asked_about_at_once(museum: Museum) -> None:
    async def look_up(domain: str) -> NameAnswer:
        return GONE

    asyncio.run(check_domain(museum.database, "slatepost.example", look_up, TestClock()))
    assert held(museum)["undeliverable"] == 9
    with pytest.raises(BadInput):
        asyncio.run(check_domain(museum.database, "a@b.example", look_up, TestClock()))
    with museum.database.transaction() as tx:
        assert len(run_sql(tx, "SELECT 1 FROM domain_check")) == 1


def test_the_verification_is_a_word_of_the_criteria_alone(museum: Museum) -> None:
    wrong = read_criteria(museum.database, SYSTEM, text='verification is "bounced"', now=NOW)
    assert wrong.problem is not None
    assert "takes mail" in wrong.problem.message
    with pytest.raises(BadInput):
        make_field(museum.database, SYSTEM, FieldDraft(key="verification", label="My own", type="text"))
