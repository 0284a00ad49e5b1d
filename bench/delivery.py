"""A whole run into `smtp-sink`, with the plain script that people would write, and with `smtp-source` as the raw limit.

20,000 messages of some 8 KB (bench.compose's), eight connections, a durable PostgreSQL, worker and sink on the same cores.
The script selects, renders with a template language, assembles with the library, sends over one connection and commits each.
20 times the script and 0.4 of `smtp-source` are meant for one worker, and two workers 1.4 times one. Where each reply takes
10 ms, over 32 connections, 80 times the script is meant. `python -m bench.delivery DIRECTORY` puts the cluster there.
"""

import json
import os
import shutil
import smtplib
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psycopg

from bench import compose
from bench.clusters import own_database
from bench.sinks import late_sink, smtp_sink
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import Pace
from uvarovite.core.messages import MessageContent
from uvarovite.core.responses import derive_keyring
from uvarovite.demo.story import founding
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.campaigns.campaigns import CampaignChange, get_campaign, save_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.imports.writing import import_file
from uvarovite.services.messages.messages import save_message
from uvarovite.services.organisation.founding import found_organisation
from uvarovite.services.organisation.relays import RelayChange, save_relay
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.database import Database, change_sql, run_sql

PEOPLE, BATCH, ROUNDS, BY_SCRIPT = 20_000, 1_000, 1, 1_000
PORT = 8_049
FAR_SECONDS, FAR_CONNECTIONS = 0.010, 32
SECRET = "a secret for measurements only"  # noqa: S105 - it protects nothing
NOW = datetime(2026, 11, 23, 9, 0, tzinfo=UTC)
CONTENT: MessageContent = compose.CONTENT


def _people() -> str:
    rows = [
        f"M-{number:05},p{number}@slatepost.example,Person,Thwaite-{number},en,Friend,{number % 900}.00,2026-12-{number % 28 + 1:02},"
        f"{number % 12}"
        for number in range(PEOPLE)
    ]
    head = "Contact no.,E-mail address,First name,Last name,Language,Membership,Pledge,Renews on,Visits last year"
    return "\n".join([head, *rows]) + "\n"


class Museum:
    """An organisation with its people, and runs of one campaign."""

    def __init__(self, database: Database) -> None:
        self.database = database
        found_organisation(database, SYSTEM, founding(smtp_host="127.0.0.1", smtp_port=25))
        import_file(
            database,
            SYSTEM,
            filename="people.csv",
            content=_people().encode(),
            topic="field_walks",
            legal_basis="Signed the list at the open day",
            now=NOW - timedelta(days=100),
            hasher=address_hasher(SECRET.encode()),
        )
        with database.transaction() as tx:
            bookings = compose.PEOPLE[0]["walk_bookings"]
            change_sql(
                tx,
                "UPDATE contact SET own = own || jsonb_build_object('walk_bookings', CAST(:bookings AS jsonb))",
                {"bookings": json.dumps(bookings)},
            )
            change_sql(tx, "UPDATE organisation SET week_cap = NULL, month_cap = NULL")
        audience = save_audience(
            database, SYSTEM, audience_id=None, name="Everyone", text="everyone", revision=None, now=NOW
        )
        message = save_message(database, SYSTEM, message_id=None, name="Walks", content=CONTENT, revision=None, now=NOW)
        offered = vocabulary(database, SYSTEM)
        self._released = 0
        self.relay_id = offered.pools[0].relays[0].id
        self.change = CampaignChange(
            name="Walks",
            topic_id=offered.topics[0].id,
            audience_id=audience.id,
            message_id=message.id,
            sender_id=offered.senders[0].id,
            pool_id=offered.pools[0].id,
            pace=Pace(batch_size=BATCH, gap_seconds=0),
            again=Again.EVERYBODY,
        )

    def point_to(self, port: int, connections: int) -> None:
        """The relay is there."""
        change = RelayChange(
            name="Sink", host="127.0.0.1", port=port, security="none", username=None, password=None,
            minute_limit=None, hourly_limit=None, daily_limit=None,
        )  # fmt: skip
        save_relay(self.database, SYSTEM, self.relay_id, change, secret=SECRET.encode())
        with self.database.transaction() as tx:
            change_sql(tx, "UPDATE relay SET connections = :n, messages_per_connection = 1000000", {"n": connections})

    def let_go(self) -> int:
        """Release a campaign of its own; the run's id."""
        self._released += 1
        change = replace(self.change, name=f"Walks {self._released}")
        campaign = save_campaign(self.database, SYSTEM, campaign_id=None, change=change, revision=None, now=NOW)
        view = get_campaign(self.database, SYSTEM, campaign.id, NOW)
        assert view.clearance is not None
        assert view.clearance.cleared == PEOPLE, view.clearance
        return release(
            self.database,
            SYSTEM,
            campaign_id=campaign.id,
            revision=view.revision,
            seen_cleared=view.clearance.cleared,
            seen_message_number=view.message_number or 0,
            public_url=compose.HERE,
            keyring=derive_keyring(SECRET.encode()),
            now=NOW,
        )

    def seconds_for(self, run_id: int) -> float:
        """Until a run has ended, from now on; everybody must have got it."""
        began = time.perf_counter()
        while True:
            with self.database.transaction() as tx:
                if run_sql(tx, "SELECT state FROM run WHERE id = :id", {"id": run_id})[0][0] == "ended":
                    break
            time.sleep(0.02)
        took = time.perf_counter() - began
        with self.database.transaction() as tx:
            rows = run_sql(
                tx, "SELECT state, count(*) AS n FROM delivery WHERE run_id = :id GROUP BY 1", {"id": run_id}
            )
        assert {row.state: row.n for row in rows} == {"accepted": PEOPLE}, rows
        return took


@contextmanager
def _workers(url: str, count: int, in_hand: int) -> Iterator[None]:
    environment = {
        **os.environ,
        "UVAROVITE_DATABASE_URL": url,
        "UVAROVITE_SECRET_KEY": SECRET,
        "UVAROVITE_MOST_IN_HAND": str(in_hand),
        # Nothing listens there: the domains of these people are not asked about.
        "UVAROVITE_NAME_SERVER": "127.0.0.1:9",
    }
    command = [sys.executable, "-m", "uvarovite.cli.main", "worker"]
    with ExitStack() as stack:
        workers = [
            stack.enter_context(subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL))
            for _ in range(count)
        ]
        # Importing takes them some seconds, in which nothing is measured.
        time.sleep(5)
        try:
            yield
        finally:
            for worker in workers:
                worker.terminate()


def _by_script(museum: Museum, run_id: int, port: int) -> float:
    """Messages a second of the plain script, over the deliveries of a run that has ended."""
    make = compose.rival()
    with psycopg.connect(museum.database.url) as connection:
        connection.execute("CREATE TABLE IF NOT EXISTS script_sent (id bigint PRIMARY KEY, at timestamptz)")
        rows = connection.execute(
            "SELECT id, address, record FROM delivery WHERE run_id = %s ORDER BY id LIMIT %s", (run_id, BY_SCRIPT)
        ).fetchall()
        connection.execute("TRUNCATE script_sent")
        connection.commit()
        with smtplib.SMTP("127.0.0.1", port) as line:
            began = time.perf_counter()
            for number, address, record in rows:
                line.sendmail("walks@skarnmuseum.example", [address], make(number, record))
                connection.execute("INSERT INTO script_sent VALUES (%s, now())", (number,))
                connection.commit()
            return BY_SCRIPT / (time.perf_counter() - began)


def _raw(port: int, connections: int) -> float:
    source = shutil.which("smtp-source") or "/usr/sbin/smtp-source"
    began = time.perf_counter()
    command = [source, "-s", str(connections), "-d", "-l", "8192", "-m", str(PEOPLE), f"127.0.0.1:{port}"]
    subprocess.run(command, check=True)
    return PEOPLE / (time.perf_counter() - began)


def _told(name: str, rates: list[float]) -> str:
    return f"{name} {statistics.median(rates):,.0f} a second"


def measure(museum: Museum, in_hand: int) -> None:
    """One worker, two workers, the script, and the raw limit, round by round."""
    connections = 8
    rates: dict[str, list[float]] = {}
    with smtp_sink() as port:
        museum.point_to(port, connections)

        def note(name: str, rate: Callable[[], float]) -> None:
            rates.setdefault(name, []).append(rate())

        for _ in range(ROUNDS):
            for count in (1, 2):
                with _workers(museum.database.url, count, in_hand):
                    run_id = museum.let_go()
                    note(f"workers: {count}", lambda run=run_id: PEOPLE / museum.seconds_for(run))
            note("script", lambda run=run_id: _by_script(museum, run, port))
            note("smtp-source", lambda: _raw(port, connections))
    print(
        "; ".join(_told(name, rate) for name, rate in rates.items())
        + f" ({in_hand} in hand, {connections} connections)"
    )

    def ratio(one: str, other: str) -> float:
        return statistics.median(a / b for a, b in zip(rates[one], rates[other], strict=True))

    print(
        f"one worker {ratio('workers: 1', 'script'):.1f} times the script, two {ratio('workers: 2', 'workers: 1'):.2f} times one"
    )
    print(f"one worker {ratio('workers: 1', 'smtp-source'):.2f} of smtp-source")


def measure_far(museum: Museum, in_hand: int) -> None:
    """One worker and the script where each reply takes a while."""
    with late_sink(FAR_SECONDS) as port:
        museum.point_to(port, FAR_CONNECTIONS)
        with _workers(museum.database.url, 1, in_hand):
            run_id = museum.let_go()
            ours = PEOPLE / museum.seconds_for(run_id)
        script = _by_script(museum, run_id, port)
    print(
        f"replies after {FAR_SECONDS * 1000:.0f} ms, {FAR_CONNECTIONS} connections, {in_hand} in hand: one worker {ours:,.0f} "
        f"a second, {ours / script:.1f} times the script (80 meant)"
    )


def main(directory: Path | None = None) -> None:
    """Print the ratios."""
    with own_database(PORT, directory) as database:
        museum = Museum(database)
        for in_hand in (64, 512):
            measure(museum, in_hand)
            measure_far(museum, in_hand)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
