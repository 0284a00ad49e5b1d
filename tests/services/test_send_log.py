"""The send log: a row for each person of a run, with the relay's answer and what came back."""

import csv
import io

import pytest
from python_calamine import load_workbook

from tests.support.museum import NOW, Museum
from tests.support.sending import NO_WORD, NOBODY, OK, send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.delivery import DeliveryState
from uvarovite.services.campaigns.again import AgainAsk, leave
from uvarovite.services.delivery.send_log import HEADERS, send_log
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.database import run_sql


def rows(museum: Museum, run_id: int, form: str) -> list[dict[str, str]]:
    content = b"".join(send_log(museum.database, SYSTEM, run_id, form=form).pieces)
    if form == "csv":
        return list(csv.DictReader(io.StringIO(content.decode("utf-8-sig"))))
    _, *lines = load_workbook(io.BytesIO(content)).get_sheet_by_index(0).to_python()
    return [dict(zip(HEADERS, map(str, line), strict=True)) for line in lines]


@pytest.fixture
def run_id(museum: Museum) -> int:
    run_id = museum.release()
    send_all(museum, run_id, answer_to=lambda batch: {1: NOBODY, 2: NO_WORD}.get(batch, OK))
    return run_id


@pytest.mark.parametrize("form", ["csv", "xlsx"])
def test_everybody_of_a_run_is_in_it_once_with_the_answer_and_what_came_back(
    museum: Museum, run_id: int, form: str
) -> None:
    leave(museum.database, SYSTEM, AgainAsk(run_id=run_id, state=DeliveryState.UNKNOWN), NOW)
    told = {row["Contact no."]: row for row in rows(museum, run_id, form)}
    assert {who: row["State"] for who, row in told.items()} == museum.states(run_id)
    assert len(rows(museum, run_id, form)) == 5
    by_state = {row["State"]: row for row in told.values()}
    refused, unknown, accepted = (by_state[state] for state in ("refused", "unknown", "accepted"))
    assert (refused["Code"], refused["Enhanced code"], refused["Meaning"]) == ("550", "5.1.1", "unknown address")
    assert (unknown["Code"], unknown["Decided"]) == ("", "left")
    assert (accepted["Relay"], accepted["Attempts"], accepted["Batch"]) == ("Main relay", "1", "3")
    assert accepted["Settled"] == f"{NOW:%Y-%m-%d %H:%M:%S}"


def test_no_spreadsheet_runs_what_a_relay_says(museum: Museum) -> None:
    run_id = museum.release()
    send_all(museum, run_id)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE attempt SET text = '=HYPERLINK(1)' RETURNING id")
    assert {row["Answer"] for row in rows(museum, run_id, "csv")} == {"'=HYPERLINK(1)"}


def test_what_is_no_run_or_no_form_is_refused(museum: Museum, run_id: int) -> None:
    with pytest.raises(NotFound):
        send_log(museum.database, SYSTEM, 99, form="csv")
    with pytest.raises(BadInput):
        send_log(museum.database, SYSTEM, run_id, form="pdf")


def test_rows_are_read_in_parts_and_none_is_left_out(
    museum: Museum, run_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    museum.change(again=Again.EVERYBODY)
    other = museum.release()
    monkeypatch.setattr("uvarovite.store.delivery.send_log._AT_ONCE", 2)
    assert len(rows(museum, run_id, "csv")) == 5
    assert {row["State"] for row in rows(museum, other, "csv")} == {"waiting"}
