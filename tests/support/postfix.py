"""A real mail system that takes messages for everybody and reports later what became of them: Debian's Postfix, on loopback."""

import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from tests.support.ports import free_port
from tests.support.processes import until
from uvarovite.bootstrap.ports import port_is_free

_POSTFIX = shutil.which("postfix") or "/usr/sbin/postfix"
# Domains, and what becomes of mail for them: who is unknown here, whose mailbox is full until the message is given up, where
# somebody else refuses, and whose domain takes no mail at all.
UNKNOWN, FULL, REFUSED, CLOSED = "fjordnet.example", "copperbox.example", "guildhall.example", "quartzmail.example"
_SERVICES = """{port} inet n - n - - smtpd
pickup unix n - n 60 1 pickup
cleanup unix n - n - 0 cleanup
qmgr unix n - n 300 1 qmgr
tlsmgr unix - - n 1000? 1 tlsmgr
rewrite unix - - n - - trivial-rewrite
bounce unix - - n - 0 bounce
defer unix - - n - 0 bounce
trace unix - - n - 0 bounce
verify unix - - n - 1 verify
flush unix n - n 1000? 0 flush
smtp unix - - n - - smtp
lmtp unix - - n - - lmtp
error unix - - n - - error
retry unix - - n - - error
discard unix - - n - - discard
local unix - n n - - local
anvil unix - - n - 1 anvil
scache unix - - n - 1 scache
postlog unix-dgram n - n - 1 postlogd
"""


@dataclass(frozen=True)
class Postfix:
    """The port that messages are handed to."""

    port: int


@contextmanager
def postfix(*, reports_to: int, refuses: int, by_lmtp: bool = False) -> Iterator[Postfix]:
    """The mail system, until the test is over; its reports go to one port, mail for REFUSED to another. It needs root."""
    port = free_port()
    with TemporaryDirectory(prefix="uvarovite-postfix-") as made:
        directory = Path(made)
        directory.chmod(0o755)
        for part in ("queue", "data"):
            (directory / part).mkdir()
        shutil.chown(directory / "data", "postfix", "postfix")
        back = f"lmtp:inet:127.0.0.1:{reports_to}" if by_lmtp else f"smtp:[127.0.0.1]:{reports_to}"
        (directory / "transport").write_text(
            f"{UNKNOWN} local:\n{FULL} retry:4.2.2 The mailbox is full\n{REFUSED} smtp:[127.0.0.1]:{refuses}\n"
            f"{CLOSED} error:5.1.2 This domain takes no mail\n* {back}\n"
        )
        (directory / "main.cf").write_text(
            "compatibility_level = 3.6\n"
            f"queue_directory = {directory}/queue\ndata_directory = {directory}/data\nmail_owner = postfix\nsetgid_group = postdrop\n"
            f"maillog_file = {directory}/log\nmaillog_file_prefixes = {directory}\ninet_interfaces = 127.0.0.1\n"
            f"inet_protocols = ipv4\nmyhostname = mx.{UNKNOWN}\nmydestination = {UNKNOWN}\nmynetworks = 127.0.0.0/8\n"
            "smtpd_reject_unlisted_recipient = no\nsmtpd_relay_restrictions = permit_mynetworks, reject\nlocal_recipient_maps =\n"
            f"alias_maps =\nalias_database =\ntransport_maps = texthash:{directory}/transport\nmaximal_queue_lifetime = 0\n"
            "bounce_queue_lifetime = 0\nqueue_run_delay = 1s\nminimal_backoff_time = 1s\nsmtp_dns_support_level = disabled\n"
            "smtp_host_lookup = native\nbiff = no\nsmtputf8_enable = yes\n"
        )
        (directory / "master.cf").write_text(_SERVICES.format(port=port))
        subprocess.run([_POSTFIX, "-c", made, "start"], check=True, capture_output=True)
        try:
            until(lambda: not port_is_free("127.0.0.1", port), "the mail system")
            yield Postfix(port)
        finally:
            subprocess.run([_POSTFIX, "-c", made, "abort"], check=False, capture_output=True)
