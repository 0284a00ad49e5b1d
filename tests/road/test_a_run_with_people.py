"""A whole run with real processes: providers answer each in their manner, people open, click and leave."""

import asyncio
import io
import re
from email import message_from_bytes, policy
from pathlib import Path

import httpx
from pypdf import PdfReader

from tests.support.museum import KEYRING, SECRET, Museum, make_museum
from tests.support.ports import free_port
from tests.support.processes import Installation, installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.single_mails import try_relay
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages.attachments import AttachedFile, CalendarEntry, MessagePdf
from uvarovite.services.campaigns.releases import release
from uvarovite.services.delivery.traces import sent_message
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.messages.attachments import keep_attachment
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.services.organisation.relays import RelayChange, save_relay
from uvarovite.store.database import Database, run_sql

PER_DOMAIN = 40
DOMAINS = (
    "slatepost.example", "quartzmail.example", "fjordnet.example", "copperbox.example", "guildhall.example",
)  # fmt: skip


def people_file() -> str:
    rows = [
        f"P-{place}-{number:03d},person{number}@{domain},Person,{number}"
        for place, domain in enumerate(DOMAINS)
        for number in range(PER_DOMAIN)
    ]
    return "\n".join(["Contact no.,E-mail address,First name,Last name", *rows]) + "\n"


def let_go(museum: Museum, world: Installation) -> int:
    view = museum.view(system_clock())
    assert view.clearance is not None
    return release(
        museum.database,
        SYSTEM,
        campaign_id=museum.campaign_id,
        revision=view.revision,
        seen_cleared=view.clearance.cleared,
        seen_message_number=view.message_number or 0,
        public_url=world.web_url,
        keyring=KEYRING,
        now=system_clock(),
    )


def test_providers_answer_and_people_react(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        museum = make_museum(
            database, people=people_file(), smtp_port=world.ports["smtp"], batch_size=50, gap_seconds=0
        )
        with database.transaction() as tx:
            run_sql(tx, "UPDATE relay SET retry_delays_seconds = '{1, 2, 3, 3}'")
        world.start_rehearsal(speed=6_000)
        world.start_web()
        run_id = let_go(museum, world)
        world.start("worker")

        def view():  # type: ignore[no-untyped-def]
            return dispatch_view(database, SYSTEM, run_id, system_clock())

        until(lambda: view().state == "ended", "the end of the run")
        ended = view()
        assert ended.planned == len(DOMAINS) * PER_DOMAIN == sum(ended.states.values())
        # Greylisted and told to slow down, they got it in the end; only fjordnet refuses for good.
        assert {line.domain for line in ended.troubles} <= {"fjordnet.example"}
        with database.transaction() as tx:
            kinds = run_sql(
                tx,
                """SELECT DISTINCT split_part(address_folded, '@', 2) AS domain, kind FROM attempt
                    JOIN delivery ON delivery.id = delivery_id ORDER BY 1, 2""",
            )
        by_domain: dict[str, set[str]] = {}
        for row in kinds:
            by_domain.setdefault(row.domain, set()).add(row.kind)
        assert by_domain["slatepost.example"] == by_domain["guildhall.example"] == {"accepted"}
        assert by_domain["quartzmail.example"] == {"accepted", "try_later"}
        assert by_domain["fjordnet.example"] == {"accepted", "refused_address"}
        assert by_domain["copperbox.example"] <= {"accepted", "try_later"}

        until(lambda: view().responses["opened"] > 20, "people to open")
        until(lambda: view().responses["clicked"] > 5, "people to click")
        until(lambda: view().responses["left"] > 0, "somebody to leave")
        # Guildhall's scanner follows every link of everybody; it is counted among machines only.
        until(lambda: view().responses["machine_events"] >= 2 * PER_DOMAIN, "the scanner")

        def left_by_ledger() -> int:
            with database.transaction() as tx:
                return int(run_sql(tx, "SELECT count(*) FROM consent WHERE state = 'left'")[0][0])

        # People go on leaving while this looks; ledger and dispatch agree at any quiet moment.
        until(lambda: left_by_ledger() == view().responses["left"], "ledger and dispatch to agree")
        left = left_by_ledger()
        # Those who left are held back from the next run.
        cleared = museum.view(system_clock()).clearance
        assert cleared is not None
        consent = next(gate for gate in cleared.gates if gate.key == "consent")
        assert consent.held >= left


def test_what_is_attached_comes_whole_and_the_relay_says_how_much_it_takes(
    museum: Museum, database: Database, tmp_path: Path
) -> None:
    plan = b"%PDF-1.7\n" + bytes(range(256)) * 4_000
    kept = keep_attachment(database, SYSTEM, data=plan, filename="plan.pdf", now=system_clock())
    message = get_message(database, SYSTEM, museum.message_id)
    letter = MessagePdf(name="for @{contact_no}")
    entry = CalendarEntry(title='Walk for @{first_name else "you"}', day="2027-03-28", time="09:30")
    save_message(
        database,
        SYSTEM,
        message_id=message.id,
        name=message.name,
        content=message.content.model_copy(update={"attachments": (AttachedFile(file=kept.file), entry, letter)}),
        revision=message.revision,
        now=system_clock(),
    )
    with installation(database.url, tmp_path) as world:
        world.start_rehearsal(speed=6_000)
        with database.transaction() as tx:
            run_sql(tx, "UPDATE relay SET port = :port RETURNING id", {"port": world.ports["smtp"]})
        report = asyncio.run(try_relay(database, SECRET, system_clock, SYSTEM, museum.relay_id, with_letter=False))
        assert report.worked
        with database.transaction() as tx:
            told = run_sql(tx, "SELECT largest_bytes FROM relay WHERE id = :id", {"id": museum.relay_id})[0][0]
        assert told == report.largest_bytes
        assert told > len(plan)
        run_id = let_go(museum, world)
        world.start("worker")
        until(lambda: len(world.captured()) == 5, "all five messages")
        until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).state == "ended", "the run to end")
        files = list((tmp_path / "mailbox").rglob("*.eml"))
    assert len(files) == 5
    told_on_paper: dict[str, str] = {}
    for file in files:
        mail = message_from_bytes(file.read_bytes(), policy=policy.default)
        [pdf, calendar, letter_pdf] = mail.iter_attachments()  # type: ignore[attr-defined]
        assert (pdf.get_filename(), pdf.get_content()) == ("plan.pdf", plan)
        assert b"DTSTART:20270328T083000Z" in calendar.get_payload(decode=True)
        assert mail.get_body(("html",)) is not None  # type: ignore[attr-defined]
        number = re.fullmatch(r"for (M-\d\d)\.pdf", letter_pdf.get_filename())
        assert number is not None
        (page,) = PdfReader(io.BytesIO(letter_pdf.get_content())).pages
        told_on_paper[number[1]] = page.extract_text()
    assert len(told_on_paper) == 5
    assert "Ada" in told_on_paper["M-01"]
    for number_of in told_on_paper:
        # Made anew in another process, it is the same to the byte.
        delivery = museum.delivery_id(run_id, number_of)
        assert sent_message(database, SYSTEM, delivery, keyring=KEYRING, secret=SECRET, now=system_clock()).identical


def test_a_relay_that_is_not_there_costs_nobody_an_attempt(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        museum = make_museum(database, smtp_port=free_port(), batch_size=2)
        run_id = let_go(museum, world)
        world.start("worker")
        trouble = until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).trouble, "trouble to be told")
        assert re.match(r"Nothing listens at 127\.0\.0\.1:\d+\. Is the relay running", trouble)

        # The worker tries one batch after the other; in the end all of them have been given back.
        def states() -> dict[str, int]:
            return dispatch_view(database, SYSTEM, run_id, system_clock()).states

        until(lambda: states() == {"waiting": 5}, "everybody to wait again")
        assert dispatch_view(database, SYSTEM, run_id, system_clock()).state == "going"
        with database.transaction() as tx:
            assert run_sql(tx, "SELECT count(*) FROM attempt")[0][0] == 0
        # The relay comes up at another port; Set-up is mended, and the run goes on by itself, at once.
        world.start_rehearsal()
        change = RelayChange(
            name="Main relay", host="127.0.0.1", port=world.ports["smtp"], security="none", username=None,
            password=None, minute_limit=None, hourly_limit=None, daily_limit=None,
        )  # fmt: skip
        save_relay(database, SYSTEM, museum.relay_id, change, secret=SECRET)
        until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).state == "ended", "the run to go on")
        done = dispatch_view(database, SYSTEM, run_id, system_clock())
        assert done.states == {"accepted": 5}
        assert done.trouble is None


def test_the_inbox_shows_letters_text_and_source(database: Database, tmp_path: Path) -> None:
    with installation(database.url, tmp_path) as world:
        museum = make_museum(database, smtp_port=world.ports["smtp"])
        world.start_rehearsal()
        run_id = let_go(museum, world)
        world.start("worker")
        until(lambda: dispatch_view(database, SYSTEM, run_id, system_clock()).state == "ended", "the end of the run")
        inbox = f"http://127.0.0.1:{world.ports['inbox']}"
        found = httpx.get(f"{inbox}/?search=zoe@").text
        assert "Ζωή, two walks are open" in found
        number = re.search(r"/m/(\d+)", found)
        assert number
        letter = httpx.get(f"{inbox}/m/{number[1]}").text
        assert "sandbox=" in letter
        assert "Skarn Valley Mineral Museum" in letter
        assert "€120.00" in httpx.get(f"{inbox}/m/{number[1]}?view=text").text
        source = httpx.get(f"{inbox}/m/{number[1]}?view=source").text
        assert "List-Unsubscribe-Post: List-Unsubscribe=One-Click" in source
        assert httpx.get(f"{inbox}/m/9999").status_code == 404
