"""The demo: a private PostgreSQL, the web server, a worker and the rehearsal, started together and stopped together."""

import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from importlib import resources
from pathlib import Path

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.database import Cluster, ClusterFault, open_database, private_cluster
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.cli.app import FAILED, app, end
from uvarovite.core.accounts import SYSTEM
from uvarovite.demo.contacts import PEOPLE, DemoFiles, make_files
from uvarovite.demo.seeding import seed_museum
from uvarovite.demo.shop import make_shop
from uvarovite.demo.story import USERS
from uvarovite.services.accounts.users import make_link
from uvarovite.services.organisation.founding import is_founded
from uvarovite.settings import BESIDE_THE_DEMO, FILE, Settings, load_settings

# Starting takes a second or two; a loaded machine may take far longer.
READY_SECONDS = 120


def museum_files(people: int) -> DemoFiles:
    """The files that ship with the project, or made ones for another number of people."""
    made = make_files(people or PEOPLE)
    if people and people != PEOPLE:
        return made
    shipped = resources.files("uvarovite.demo").joinpath("museum contacts.csv").read_text(encoding="utf-8")
    return DemoFiles(
        contacts=shipped,
        sign_ups=made.sign_ups,
        left=made.left,
        asked=made.asked,
        suppressed=made.suppressed,
    )


def _secret_key(directory: Path) -> str:
    """The installation's secret, made once and kept beside the data."""
    path = directory / "secret_key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(32))
    return path.read_text().strip()


def _check_ports(settings: Settings, cluster: Cluster) -> None:
    wanted = {
        "UVAROVITE_WEB_PORT": settings.web_port,
        "UVAROVITE_SMTP_PORT": settings.smtp_port,
        "UVAROVITE_INBOX_PORT": settings.inbox_port,
        "UVAROVITE_INBOUND_PORT": settings.inbound_port,
    }
    if not cluster.running():
        wanted["UVAROVITE_DATABASE_PORT"] = settings.database_port
    taken = [(name, port) for name, port in wanted.items() if not port_is_free(settings.host, port)]
    if not port_is_free(settings.host, settings.names_port, socket.SOCK_DGRAM):
        taken.append(("UVAROVITE_NAMES_PORT", settings.names_port))
    if taken:
        *several, last = (str(port) for _, port in taken)
        ports = f"{', '.join(several)} and {last}" if several else last
        others = " ".join(f"{name}={_other_port(settings.host, port)}" for name, port in taken)
        end(
            FAILED,
            f"{'Ports' if len(taken) > 1 else 'Port'} {ports} {'are' if len(taken) > 1 else 'is'} taken. Stop what uses "
            f"{'them' if len(taken) > 1 else 'it'} (perhaps another demo), or choose others:  {others} make demo",
        )


def _other_port(host: str, port: int) -> int:
    """A free port near one that is taken."""
    near = (other for other in range(port + 100, 65_000, 100))
    return next(other for other in near if port_is_free(host, other) and port_is_free(host, other, socket.SOCK_DGRAM))


@app.command()
def demo(
    directory: Path = typer.Option(Path(".uvarovite"), help="Where the demo keeps its data."),
    people: int = typer.Option(
        0, "--contacts", min=0, max=1_000_000, help="How many contacts instead of the museum's 2,400."
    ),
    reset: bool = typer.Option(False, help="Throw the demo's data away and begin anew."),
    speed: float = typer.Option(60.0, min=0.01, help="How much faster than life the simulated people are."),
) -> None:
    """Everything at once on loopback, with a PostgreSQL of its own and the museum's data; Ctrl C ends it."""
    began = time.monotonic()
    directory = directory.resolve()
    base = load_settings(file=False)
    directory.mkdir(parents=True, exist_ok=True)
    try:
        cluster = private_cluster(directory / "postgres", base.database_port)
    except ClusterFault as fault:
        end(FAILED, str(fault))
    _check_ports(base, cluster)
    if reset:
        if cluster.running():
            cluster.stop()
        shutil.rmtree(cluster.directory, ignore_errors=True)
        shutil.rmtree(directory / "rehearsal", ignore_errors=True)
    # From here on a signal ends the demo in order, wherever it stands.
    for sign in (signal.SIGTERM, signal.SIGINT):
        signal.signal(sign, lambda *_: _interrupt())
    children: list[subprocess.Popen[bytes]] = []
    try:
        _say("Starting PostgreSQL …")
        if cluster.directory.parent != directory:
            _say(f"Its data is in {cluster.directory}: its user cannot get into {directory}.")
        cluster.start()
        settings = _settings(base, cluster, directory)
        links = _prepare(settings, people)
        _start(settings, directory, speed, children)
        _welcome(settings, links, directory, time.monotonic() - began)
        _watch(children)
    except ClusterFault as fault:
        end(FAILED, str(fault))
    except KeyboardInterrupt:
        _say("\nStopping …")
    finally:
        for sign in (signal.SIGTERM, signal.SIGINT):
            signal.signal(sign, signal.SIG_IGN)
        _stop(children)
        cluster.stop()
    _say("Stopped. The data is kept; “make demo” goes on with it, “make demo-reset” begins anew.")


def _interrupt() -> None:
    raise KeyboardInterrupt


def _say(words: str) -> None:
    print(words, flush=True)


def _settings(base: Settings, cluster: Cluster, directory: Path) -> Settings:
    # The children read the same from their environment.
    os.environ |= {
        "UVAROVITE_DATABASE_URL": cluster.url(),
        "UVAROVITE_READER_URL": cluster.reader_url(),
        "UVAROVITE_SECRET_KEY": os.environ.get("UVAROVITE_SECRET_KEY") or _secret_key(directory),
        "UVAROVITE_INBOX_URL": f"http://{base.host}:{base.inbox_port}/",
        "UVAROVITE_NAME_SERVER": f"{base.host}:{base.names_port}",
        "UVAROVITE_SOURCES_DIR": str(directory / "sources"),
    }
    settings = load_settings(file=False)
    _write_settings(settings, directory / FILE)
    return settings


def _write_settings(settings: Settings, path: Path) -> None:
    """What the commands beside the demo read; it holds secrets, and only its owner reads it."""
    names = (
        "host",
        "web_port",
        "smtp_port",
        "inbox_port",
        "inbound_port",
        "names_port",
        "public_url",
        "inbox_url",
        "name_server",
    )
    told = {name: getattr(settings, name) for name in names} | {
        "database_url": settings.database(),
        "reader_url": settings.reader_url.get_secret_value(),
        "secret_key": settings.secret().decode(),
        "sources_dir": settings.sources_dir,
    }
    path.touch(mode=0o600)
    path.chmod(0o600)
    lines = [f"UVAROVITE_{name.upper()}='{value}'" for name, value in told.items() if value not in (None, "")]
    path.write_text("# Written by the demo at each start, for commands beside it.\n" + "\n".join(lines) + "\n")


def _prepare(settings: Settings, people: int) -> list[tuple[str, str]]:
    database = open_database(settings)
    try:
        now = system_clock()
        if not is_founded(database):
            _say(f"Importing the museum's {people or PEOPLE:,} contacts …")
            assert settings.sources_dir is not None
            make_shop(settings.sources_dir)
            seed_museum(database, museum_files(people), smtp_host=settings.host, smtp_port=settings.smtp_port, now=now)
        email = USERS[0][0]
        return [(email, f"{settings.base_url()}/enter?token={make_link(database, SYSTEM, email=email, now=now)}")]
    finally:
        database.close()


def _start(settings: Settings, directory: Path, speed: float, children: list[subprocess.Popen[bytes]]) -> None:
    logs = directory / "logs"
    logs.mkdir(exist_ok=True)

    def start(name: str, *arguments: str) -> None:
        with (logs / f"{name}.log").open("ab") as log:
            children.append(
                subprocess.Popen(
                    [sys.executable, "-m", "uvarovite.cli.main", name, *arguments],
                    stdout=log,
                    stderr=log,
                    # A group of its own: Ctrl C reaches the demo alone, which stops its children in order.
                    start_new_session=True,
                )
            )

    start("rehearsal", "--directory", str(directory / "rehearsal"), "--speed", str(speed))
    # The worker asks the rehearsal's name server as soon as it runs.
    _wait(lambda: not port_is_free(settings.host, settings.smtp_port), children, "The rehearsal")
    start("serve")
    start("worker")
    start("receive")
    _wait(lambda: _answers(f"{settings.base_url()}/api/openapi.json"), children, "The web server")


def _wait(ready: Callable[[], bool], children: list[subprocess.Popen[bytes]], what: str) -> None:
    until = time.monotonic() + READY_SECONDS
    while not ready():
        if any(child.poll() is not None for child in children):
            end(FAILED, f"{what} did not start; the logs in .uvarovite/logs say why.")
        if time.monotonic() > until:
            end(FAILED, f"{what} is not ready after {READY_SECONDS} s; the logs in .uvarovite/logs say more.")
        time.sleep(0.1)


def _answers(url: str) -> bool:
    with suppress(OSError), urllib.request.urlopen(url, timeout=5) as response:  # noqa: S310 - our own address
        return bool(response.status == 200)
    return False


def _welcome(settings: Settings, links: list[tuple[str, str]], directory: Path, seconds: float) -> None:
    _say("")
    _say(f"Uvarovite is ready after {seconds:.0f} s:  {settings.base_url()}/")
    for email, link in links:
        _say(f"  sign in once as {email}:  {link}")
    for email, name, password, role in USERS:
        _say(f"  or by password: {name} ({role}), {email}, {password}")
    _say(f"  what the simulated people receive:  http://{settings.host}:{settings.inbox_port}/")
    _say(f"  on the command line:  {_command(directory)} count 'volunteer'")
    _say("Nothing leaves this machine. Ctrl C stops it.")


def _command(directory: Path) -> str:
    """How a command is called from where the demo was started."""
    beside = directory / FILE == BESIDE_THE_DEMO.resolve()
    told = "" if beside else f"UVAROVITE_SETTINGS='{directory / FILE}' "
    return f"{told}{os.path.relpath(Path(sys.prefix, 'bin', 'uvarovite'))}"


def _watch(children: list[subprocess.Popen[bytes]]) -> None:
    while all(child.poll() is None for child in children):
        time.sleep(0.3)
    _say("One of the processes ended by itself; the logs in .uvarovite/logs say why.")


def _stop(children: list[subprocess.Popen[bytes]]) -> None:
    for child in reversed(children):
        child.terminate()
    for child in children:
        try:
            child.wait(timeout=20)
        except subprocess.TimeoutExpired:
            child.kill()
            child.wait()
