"""How long the demo takes to be ready, for so many contacts: it must grow with them evenly."""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

SIZES = (5_000, 20_000)


def seconds_until_ready(contacts: int) -> float:
    """Start a demo in a directory of its own, wait until it says that it is ready, and stop it."""
    with tempfile.TemporaryDirectory() as name:
        directory = Path(name)
        directory.chmod(0o755)
        began = time.perf_counter()
        demo = subprocess.Popen(
            [sys.executable, "-m", "uvarovite.cli.main", "demo", "--directory", str(directory / "demo"),
             "--contacts", str(contacts)],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert demo.stdout is not None
        ready = next((line for line in demo.stdout if "is ready" in line), None)
        taken = time.perf_counter() - began
        demo.terminate()
        demo.communicate(timeout=60)
        assert ready, f"the demo of {contacts} contacts did not start"
        return taken


def main() -> None:
    """Two sizes, and what each contact of the larger one costs in terms of the smaller one."""
    taken = {contacts: seconds_until_ready(contacts) for contacts in SIZES}
    for contacts, seconds in taken.items():
        print(f"demo of {contacts:,} contacts ready after {seconds:.1f} s (60 s are meant for 20,000)")
    small, large = (taken[contacts] / contacts for contacts in SIZES)
    print(f"a contact of the larger one costs {large / small:.2f} of one of the smaller (1 at most is meant)")


if __name__ == "__main__":
    main()
