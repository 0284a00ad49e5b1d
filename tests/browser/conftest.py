"""A browser on a whole installation: web server, worker and rehearsal over a real database."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.support.databases import make_database
from tests.support.museum import NOW
from tests.support.processes import Installation, installation
from tests.support.web import EMAIL, PASSWORD
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.demo.contacts import make_files
from uvarovite.demo.seeding import seed_museum, seed_people
from uvarovite.demo.story import founding
from uvarovite.services.accounts.users import create_user
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import Database, run_sql

# Two browsers share two cores with two whole installations.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """Debian's Chromium without windows; as root it needs to do without its sandbox."""
    flags = [
        "--disable-gpu", "--disable-quic", "--disable-background-networking", "--disable-component-update",
        "--disable-sync", "--no-first-run",
    ]  # fmt: skip
    if os.geteuid() == 0:
        flags.append("--no-sandbox")
    return {"executable_path": "/usr/bin/chromium-headless-shell", "args": flags}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    """The size that counts first."""
    return {"viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture(autouse=True)
def pages_end(browser: Browser) -> Iterator[None]:
    """Pages end with their test. One that stays open asks its server, which is gone, again and again."""
    yield
    for context in browser.contexts:
        context.close()


@pytest.fixture(scope="session")
def demo_there(cluster: Cluster) -> None:
    """The demo's museum with 300 people, made once in a database that the tests' own are copies of."""
    make_database(cluster, "template_demo_museum", "template_uvarovite")
    database = Database(cluster.url("template_demo_museum"), connections=4)
    seed_museum(database, make_files(300), smtp_host="127.0.0.1", smtp_port=8041, now=system_clock())
    database.close()


@pytest.fixture(scope="session")
def people_there(cluster: Cluster) -> None:
    """The museum with 300 people and one user, made once in a database that the tests' own are copies of."""
    make_database(cluster, "template_people_museum", "template_uvarovite")
    database = Database(cluster.url("template_people_museum"), connections=4)
    found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=8041))
    create_user(database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    seed_people(database, make_files(300), NOW)
    with database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET retry_delays_seconds = '{2, 2, 2, 2}'")
    database.close()


@contextmanager
def with_own_relay(database: Database, directory: Path) -> Iterator[Installation]:
    """An installation whose mail would go to its own rehearsal; nothing runs yet."""
    with installation(database.url, directory, UVAROVITE_READER_URL=database.reader_url) as made:
        with database.transaction() as tx:
            run_sql(tx, "UPDATE relay SET port = :port", {"port": made.ports["smtp"]})
        yield made


@pytest.fixture
def demo_museum(database: Database, demo_there: None, tmp_path: Path) -> Iterator[Installation]:
    """An installation with the demo's museum; nothing runs yet."""
    with with_own_relay(database, tmp_path) as made:
        yield made


@pytest.fixture
def people_museum(database: Database, people_there: None, tmp_path: Path) -> Iterator[Installation]:
    """An installation with 300 people and no audience, message or campaign yet; nothing runs yet."""
    with with_own_relay(database, tmp_path) as made:
        yield made


@pytest.fixture
def world(people_museum: Installation) -> Installation:
    """The same, and everything runs."""
    people_museum.environment["UVAROVITE_INBOX_URL"] = f"http://127.0.0.1:{people_museum.ports['inbox']}/"
    people_museum.start_rehearsal(speed=3_000)
    people_museum.start_web()
    people_museum.start("worker")
    return people_museum


@pytest.fixture
def demo_web(demo_museum: Installation) -> Installation:
    """The whole demo on screen, without its mail going out."""
    demo_museum.start_web()
    return demo_museum


@pytest.fixture
def new_message(browser: Browser, demo_web: Installation) -> Page:
    """A new message of the demo, with a name, open to be written."""
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages/new")
    page.get_by_label("Name of the message").fill("Spring walks")
    return page
