"""A process that is killed while it lays letters out: nothing is left of it, and nobody got a letter by it."""

import os
import signal
from datetime import timedelta
from pathlib import Path

import httpx

from tests.support.importing import import_people
from tests.support.museum import NOW, Museum
from tests.support.processes import installation, until
from tests.support.web import EMAIL, PASSWORD
from uvarovite.api.guard import CSRF_HEADER
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts.users import create_user
from uvarovite.services.campaigns import printing
from uvarovite.store.campaigns.printing import SILENT

PEOPLE = 400


def children_of(pid: int) -> list[int]:
    """The processes that a process began, and those that they began."""
    begun: dict[int, list[int]] = {}
    for entry in Path("/proc").glob("[0-9]*/stat"):
        try:
            told = entry.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        begun.setdefault(int(told[1]), []).append(int(entry.parent.name))
    waiting, found = [pid], list[int]()
    while waiting:
        some = begun.get(waiting.pop(), [])
        found += some
        waiting += some
    return found


def is_there(pid: int) -> bool:
    try:
        return (Path("/proc") / str(pid) / "stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_letters_of_a_killed_process_are_thrown_away_and_laid_out_anew(museum: Museum, tmp_path: Path) -> None:
    lines = [f"Q-{n},Ada,Wren {n},{n} Kiln Street,Skarn,SK{n} 1AA" for n in range(PEOPLE)]
    import_people(museum, "Contact no.,First name,Last name,Street,Town,Postcode\n" + "\n".join(lines) + "\n")
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    where = f"/api/campaigns/{museum.campaign_id}/letters"
    with installation(museum.database.url, tmp_path, UVAROVITE_READER_URL=museum.database.reader_url) as made:
        made.start_web()
        web = made.running[0]
        with httpx.Client(base_url=made.web_url, timeout=60) as client:
            token = client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).json()["csrf_token"]
            answer = client.post(where, json={"paper": "din", "seen_cleared": PEOPLE}, headers={CSRF_HEADER: token})
            assert answer.json()["open"]["state"] == "making"
            until(lambda: client.get(where).json()["open"]["done"] > 0, "the first letters")
        children = children_of(web.pid)
        assert children
        os.kill(web.pid, signal.SIGKILL)
        until(lambda: not any(map(is_there, children)), "the end of what laid the letters out")
    later = system_clock() + SILENT + timedelta(seconds=1)
    told = printing.get_printing(museum.database, SYSTEM, museum.campaign_id, now=later)
    assert told.open is not None
    assert told.open.state == "broken"
    printing.settle_printing(museum.database, SYSTEM, museum.campaign_id, told.open.id, printed=False, now=later)
    after = printing.get_printing(museum.database, SYSTEM, museum.campaign_id, now=later)
    assert (after.open, after.cleared, after.before) == (None, PEOPLE, [])
