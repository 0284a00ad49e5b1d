"""A real mail server with one mailbox, on loopback, for a test alone."""

import getpass
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory

from tests.support.ports import free_port
from tests.support.processes import until
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.net.mailbox import MailboxAccess

USER, PASSWORD = "letters@skarnmuseum.example", "lamp-in-the-adit"


@dataclass(frozen=True)
class Dovecot:
    """The server's port, and the directory of its mailbox."""

    port: int
    maildir: Path
    numbers: Iterator[int] = field(default_factory=count)

    @property
    def access(self) -> MailboxAccess:
        return MailboxAccess(host="127.0.0.1", port=self.port, security="none", username=USER, password=PASSWORD)

    def deliver(self, raw: bytes) -> None:
        """Put a message into the mailbox behind the others, as a delivery agent would."""
        # Never the same name twice: the server believes that it knows what is under it.
        number = next(self.numbers)
        name = f"{1_700_000_000 + number}.M{number}P1.museum"
        temporary = self.maildir / "tmp" / name
        temporary.write_bytes(raw)
        shutil.chown(temporary, *_owner())
        temporary.rename(self.maildir / "new" / name)

    def seen(self) -> int:
        """How many messages are marked."""
        return sum(one.name.endswith("S") for one in (self.maildir / "cur").iterdir())


def _owner() -> tuple[str, str]:
    # As root it needs somebody else whose the mailbox is.
    return ("dovecot", "dovecot") if os.geteuid() == 0 else (getpass.getuser(), getpass.getuser())


@contextmanager
def dovecot() -> Iterator[Dovecot]:
    """The server, until the test is over."""
    port = free_port()
    user, group = _owner()
    with TemporaryDirectory(prefix="uvarovite-dovecot-") as made:
        directory = Path(made)
        maildir = directory / "mail"
        for part in ("tmp", "new", "cur"):
            (maildir / part).mkdir(parents=True)
        subprocess.run(["chown", "-R", f"{user}:{group}", str(maildir)], check=True)
        directory.chmod(0o755)
        inner = "" if os.geteuid() == 0 else f"default_internal_user = {user}\ndefault_login_user = {user}\n"
        (directory / "dovecot.conf").write_text(
            f"base_dir = {directory}/run\nstate_dir = {directory}/state\nlog_path = {directory}/log\nssl = no\n"
            f"protocols = imap\nlisten = 127.0.0.1\ndisable_plaintext_auth = no\nfirst_valid_uid = 1\nfirst_valid_gid = 1\n{inner}"
            "service imap-login {\n chroot =\n inet_listener imap {\n  port = "
            f"{port}\n }}\n inet_listener imaps {{\n  port = 0\n }}\n}}\nservice anvil {{\n chroot =\n}}\n"
            f"passdb {{\n driver = static\n args = password={PASSWORD}\n}}\n"
            f"userdb {{\n driver = static\n args = uid={user} gid={group} home={directory}/home\n}}\n"
            f"mail_location = maildir:{maildir}\n"
        )
        command = [shutil.which("dovecot") or "/usr/sbin/dovecot", "-F", "-c", str(directory / "dovecot.conf")]
        with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as server:
            try:
                until(lambda: not port_is_free("127.0.0.1", port), "the mail server")
                yield Dovecot(port, maildir)
            finally:
                server.terminate()
