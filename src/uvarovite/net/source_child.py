"""What reads a live source in a process of its own: limits first, then the reading.

The request comes as JSON on the input, the password with it; rows go to the output as CSV, progress and the answer as
lines of JSON to the standard error.
"""

import sys
from dataclasses import asdict
from typing import Any

from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.sandbox.process import limits_of_child


def main() -> None:
    """Do what the request says, once."""
    import orjson

    limits_of_child().apply()

    from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourceKind
    from uvarovite.net import live_sources

    def say(**told: Any) -> None:
        sys.stderr.buffer.write(orjson.dumps(told) + b"\n")
        sys.stderr.buffer.flush()

    request = orjson.loads(sys.stdin.buffer.read())
    access = SourceAccess(**{**request["access"], "kind": SourceKind(request["access"]["kind"])})
    ask = SourceAsk(**request["ask"])
    try:
        match request["action"]:
            case "tables":
                say(answer=live_sources.tables_of(access))
            case "preview":
                say(answer=asdict(live_sources.preview_source(access, ask)))
            case _:
                out = sys.stdout.buffer
                rows = live_sources.read_source(access, ask, out, lambda done, total: say(done=done, total=total))
                out.flush()
                say(answer=rows)
    except SourceFault as fault:
        say(fault=fault.code, facts=fault.fault.facts)
    except MemoryError:
        sys.exit(1)


if __name__ == "__main__":
    main()
