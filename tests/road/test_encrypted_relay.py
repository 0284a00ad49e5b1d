"""A run to a relay that wants TLS: it waits while the certificate cannot be trusted, and goes once it can."""

from pathlib import Path

import pytest

from tests.support.museum import NOW, SECRET, Museum
from tests.support.processes import Installation, installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.delivery.watching import DispatchView, dispatch_view
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.relays import RelayChange, save_relay


def point_to(museum: Museum, world: Installation, authority: str | None) -> None:
    """The relay is the simulated one, with STARTTLS; saving has it tried at once."""
    change = RelayChange(
        name="Main relay", host="127.0.0.1", port=world.ports["smtp"], security="starttls", username=None, password=None,
        minute_limit=None, hourly_limit=None, daily_limit=None, authority=authority,
    )  # fmt: skip
    save_relay(museum.database, SYSTEM, museum.relay_id, change, secret=SECRET)


def test_a_run_waits_for_a_certificate_that_can_be_trusted(museum: Museum, tmp_path: Path) -> None:
    with installation(museum.database.url, tmp_path) as world:
        world.start_rehearsal(scenario="expired")
        authority = (tmp_path / "mailbox" / "certificates" / "authority.pem").read_text()
        point_to(museum, world, None)
        run_id = museum.release(NOW)
        world.start("worker")

        def view() -> DispatchView:
            return dispatch_view(museum.database, SYSTEM, run_id, system_clock())

        def says(words: str) -> None:
            until(lambda: words in (view().trouble or ""), f"“{words}”")
            assert view().states == {"waiting": 5}
            assert world.account()["taken"] == 0

        says("cannot be trusted")
        point_to(museum, world, authority)
        says("certificate has expired")
        world.play("other-name")
        point_to(museum, world, authority)
        says("certificate is not valid for")
        world.play("encrypted")
        point_to(museum, world, authority)
        until(lambda: view().state == "ended", "the end of the run")
        assert view().states == {"accepted": 5}
        # Nothing of that took anybody an attempt.
        assert (world.account()["taken"], world.account()["twice"]) == (5, 0)


@pytest.mark.parametrize("told", ["a certificate", "-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----"])
def test_what_is_no_certificate_is_refused(museum: Museum, told: str, tmp_path: Path) -> None:
    with installation(museum.database.url, tmp_path) as world, pytest.raises(BadInput, match="no certificate"):
        point_to(museum, world, told)
