"""Examining an installation: what is wrong is said with what to try, and nothing is changed or sent."""

from collections.abc import Iterator
from datetime import timedelta

import pytest
from pydantic import SecretStr

from tests.support.museum import NOW, SECRET, Museum
from tests.support.ports import free_port
from tests.support.relays import Script, relay_aside
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.doctor import examine
from uvarovite.core.delivery.alignment import Standing
from uvarovite.services.delivery.examination import Found
from uvarovite.settings import Settings
from uvarovite.store.database import run_sql


@pytest.fixture
def script(museum: Museum) -> Iterator[Script]:
    told = Script()
    with relay_aside(told) as port:
        with museum.database.transaction() as tx:
            run_sql(tx, "UPDATE relay SET port = :port RETURNING id", {"port": port})
        yield told


def examined(museum: Museum, **settings: object) -> dict[str, Found]:
    told = {
        "database_url": SecretStr(museum.database.url),
        "secret_key": SecretStr(SECRET.decode()),
        "name_server": f"127.0.0.1:{free_port()}",
        "public_url": "https://mail.skarnmuseum.example",
    }
    made = Settings(**{**told, **settings})
    return {one.part: one for one in examine(made, museum.database, system_clock)}


def test_what_is_well_is_said_too_and_no_message_goes_out(museum: Museum, script: Script) -> None:
    found = examined(museum)
    for part in ("database", "clocks", "workers", "relay Main relay", "address for readers"):
        assert found[part].standing in (Standing.WELL, Standing.ADVICE), found[part]
    assert "without TLS" in found["relay Main relay"].words
    assert "not signed" in found["domain skarnmuseum.example"].words
    assert (script.connections, script.messages) == (1, [])
    assert found["name server"].standing is Standing.WRONG


def test_a_relay_that_does_not_work_is_told_with_what_to_try(museum: Museum, script: Script) -> None:
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET port = :port RETURNING id", {"port": free_port()})
    found = examined(museum)["relay Main relay"]
    assert found.standing is Standing.WRONG
    assert "Nothing listens" in found.words
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET sealed_password = 'of another key', username = 'museum' RETURNING id")
    assert "under another secret key" in examined(museum)["relay Main relay"].words


def test_batches_that_nobody_takes_say_that_no_worker_runs(museum: Museum, script: Script) -> None:
    museum.release(system_clock() - timedelta(minutes=5))
    found = examined(museum)["workers"]
    assert (found.standing, found.words) == (
        Standing.WRONG,
        "3 batches have been due for more than a minute and nobody has them. Is a worker running?",
    )
    # Whatever is paused waits for nobody.
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE run SET state = 'paused' RETURNING id")
    assert examined(museum)["workers"].standing is Standing.WELL


def test_clocks_that_differ_and_an_address_that_nobody_reaches_are_told(museum: Museum, script: Script) -> None:
    made = Settings(
        database_url=SecretStr(museum.database.url),
        secret_key=SecretStr(SECRET.decode()),
        name_server=f"127.0.0.1:{free_port()}",
    )
    found = {one.part: one for one in examine(made, museum.database, lambda: NOW)}
    assert "apart" in found["clocks"].words
    assert "only this machine reaches" in found["address for readers"].words
    told = examined(museum, public_url="http://mail.skarnmuseum.example")
    assert "RFC 8058" in told["address for readers"].words


def test_without_its_schema_there_is_no_more_to_say(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE alembic_version SET version_num = '0001' RETURNING version_num")
    assert {part: one.standing for part, one in examined(museum).items()} == {"database": Standing.WRONG}
