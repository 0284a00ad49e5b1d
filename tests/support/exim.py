"""A second real mail system, which writes its reports in another manner: Debian's Exim, unpacked beside the environment.

Debian installs one mail system at a time; scripts/bootstrap unpacks this one under .venv/exim.
"""

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

_EXIM = Path(__file__).parents[2] / ".venv/exim/usr/sbin/exim4"
# Its domains mean what they mean in tests.support.postfix.
_CONFIGURATION = """
exim_path = {exim}
spool_directory = {directory}/spool
log_file_path = {directory}/log/%slog
pid_file_path = {directory}/exim.pid
primary_hostname = mx.fjordnet.example
daemon_smtp_ports = {port}
local_interfaces = 127.0.0.1
tls_advertise_hosts =
acl_smtp_rcpt = accept
acl_smtp_data = accept
never_users =
keep_environment =
host_lookup =
rfc1413_query_timeout = 0s
ignore_bounce_errors_after = 0s
smtp_accept_max = 50
begin routers
unknown:
  driver = redirect
  domains = fjordnet.example
  allow_fail
  data = :fail: 550 5.1.1 there is nobody of that name here
full:
  driver = manualroute
  domains = copperbox.example
  route_list = * 127.0.0.1::{full} byname
  transport = out
  self = send
refused:
  driver = manualroute
  domains = guildhall.example
  route_list = * 127.0.0.1::{refuses} byname
  transport = out
  self = send
back:
  driver = manualroute
  route_list = * 127.0.0.1::{reports_to} byname
  transport = out
  self = send
begin transports
out:
  driver = smtp
  hosts_try_fastopen =
  hosts_try_chunking =
begin retry
* * F,1s,1s
begin rewrite
begin authenticators
"""


@dataclass(frozen=True)
class Exim:
    """The port that messages are handed to."""

    port: int


@contextmanager
def exim(*, reports_to: int, refuses: int, full: int) -> Iterator[Exim]:
    """The mail system, until the test is over; its reports go to one port, mail for REFUSED and FULL to others. It needs root."""
    port = free_port()
    with TemporaryDirectory(prefix="uvarovite-exim-") as made:
        directory = Path(made)
        directory.chmod(0o777)
        for part in ("spool", "log"):
            (directory / part).mkdir()
            (directory / part).chmod(0o777)
        # It goes on as a user of its own, who may not look into everybody's home.
        program = Path(shutil.copy(_EXIM, directory / "exim4"))
        configuration = directory / "exim.conf"
        configuration.write_text(
            _CONFIGURATION.format(
                exim=program, directory=directory, port=port, reports_to=reports_to, refuses=refuses, full=full
            )
        )
        configuration.chmod(0o644)
        daemon = subprocess.Popen(
            [program, "-C", configuration, "-bdf", "-q1s"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
        )
        try:
            until(lambda: not port_is_free("127.0.0.1", port), "the mail system")
            yield Exim(port)
        finally:
            daemon.terminate()
            daemon.wait(20)
