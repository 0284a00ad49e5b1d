"""Another key for what is sealed: everything opens with it, and what neither key opens is named."""

from pathlib import Path

import pytest

from tests.support.museum import NOW, SECRET, Museum
from tests.support.processes import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.delivery.dkim import Algorithm
from uvarovite.services.organisation import signing
from uvarovite.services.organisation.relays import RelayChange, relays_to_try, save_relay
from uvarovite.services.organisation.sealing import seal_everything_anew
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.store.database import change_sql, run_sql

NEW = b"another key, sixteen at least"


def password_of(museum: Museum, secret: bytes) -> str | None:
    [(_, access, _)] = relays_to_try(museum.database, SYSTEM, secret=secret)
    return access.password if access else None


def sealed(museum: Museum) -> int:
    """A relay's password and a key that signs are sealed; the key's id."""
    change = RelayChange(
        name="Main relay", host="127.0.0.1", port=25, security="none", username="museum", password="garnet-41",
        minute_limit=None, hourly_limit=None, daily_limit=None,
    )  # fmt: skip
    save_relay(museum.database, SYSTEM, museum.relay_id, change, secret=SECRET)
    made = signing.make_key(
        museum.database, SYSTEM, domain="skarnmuseum.example", algorithm=Algorithm.ED25519, secret=SECRET, now=NOW
    )
    return made.id


def test_everything_is_sealed_with_the_new_key_and_twice_changes_nothing(museum: Museum) -> None:
    key_id = sealed(museum)
    for _ in range(2):
        done = seal_everything_anew(museum.database, SYSTEM, before=SECRET, secret=NEW)
        assert (done.sealed, done.lost) == (2, [])
        assert password_of(museum, NEW) == "garnet-41"
        assert password_of(museum, SECRET) is None
        with museum.database.transaction() as tx:
            assert len(signing.open_keys(tx, [key_id], NEW)) == 1
            with pytest.raises(SecretLost):
                signing.open_keys(tx, [key_id], SECRET)


def test_what_neither_key_opens_stays_and_is_named(museum: Museum) -> None:
    sealed(museum)
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET sealed_password = 'torn'")
    done = seal_everything_anew(museum.database, SYSTEM, before=SECRET, secret=NEW)
    assert (done.sealed, done.lost) == (1, ["the password of the relay “Main relay”"])
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT sealed_password FROM relay")[0][0] == "torn"


def test_the_command_goes_over_from_the_secret_key(museum: Museum, tmp_path: Path) -> None:
    sealed(museum)
    with installation(museum.database.url, tmp_path) as world:
        told = world.run("seal-anew")
        assert told.returncode == 2
        assert "UVAROVITE_SEALING_KEY" in told.stderr
        world.environment["UVAROVITE_SEALING_KEY"] = NEW.decode()
        told = world.run("seal-anew")
        assert told.returncode == 0, told.stderr
        assert "2 secrets are sealed" in told.stdout
    assert password_of(museum, NEW) == "garnet-41"
