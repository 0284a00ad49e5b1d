"""Live sources: another database's people, asked for by a table's name or a SELECT, at hand or by a schedule.

A source is only ever read. Its rows become cells, so that everything after that is the same as with a file.
"""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from enum import StrEnum
from typing import IO, Annotated, Any
from zoneinfo import ZoneInfo

import orjson
import pydantic

from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.values import StoredForm, form_of

LONGEST_SELECT = 20_000


class SourceKind(StrEnum):
    """The database systems that can be read. MYSQL is MariaDB as well."""

    POSTGRESQL = "postgresql"
    MYSQL = "mysql"
    SQLITE = "sqlite"


USUAL_PORTS = {SourceKind.POSTGRESQL: 5432, SourceKind.MYSQL: 3306}


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceAccess:
    """How a database is reached. For SQLite `database` is the path of a file on the server; the rest is not used.

    With `tls` the connection is encrypted and the server's certificate is verified. `address` is the one that the host's
    name was found to have when it was judged whether it may be read: nobody looks it up again.
    """

    kind: SourceKind
    database: str
    host: str = ""
    port: int = 0
    username: str = ""
    password: str = ""
    tls: bool = False
    address: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceAsk:
    """What is read: a table or view, perhaps with its schema before it (`shop.people`), or a SELECT of one's own."""

    table: str = ""
    select: str = ""


_HOST = re.compile(r"[A-Za-z0-9](?:[A-Za-z0-9.-]{0,251}[A-Za-z0-9])?|(?=.*:)[0-9A-Fa-f:.]{2,45}")


def host_problem(host: str) -> SourceFault | None:
    """Why a text is no single host, or None: a path would be a socket of this machine, a comma a list of hosts."""
    return None if _HOST.fullmatch(host) else SourceFault("not_allowed", how="no_host", host=host[:60])


def ask_problem(ask: SourceAsk) -> SourceFault | None:
    """Why something cannot be asked for, or None when it can.

    A semicolon could end our read-only transaction and begin something else, so there is none, not even within quotes.
    """
    text = ask.select.strip().removesuffix(";").strip()
    if not text:
        return None if ask.table.strip() else SourceFault("refused", how="nothing")
    if len(text) > LONGEST_SELECT:
        return SourceFault("refused", how="long", most=LONGEST_SELECT)
    if not re.match(r"(select|with)\b", text, re.IGNORECASE):
        return SourceFault("refused", how="no_select")
    if ";" in text:
        return SourceFault("refused", how="semicolon")
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class SourcePreview:
    """What a source has: how many rows, its columns, and the first rows as cells."""

    rows: int
    headers: tuple[str, ...]
    samples: tuple[tuple[str, ...], ...]


# Reads a source as CSV into a file and tells (rows done, rows in all) on the way; gives the rows. Raises SourceFault.
ReadSource = Callable[[SourceAccess, SourceAsk, IO[bytes], Callable[[int, int], None]], int]


def cell_of(value: Any) -> str:
    """A database's value as a cell: days and instants in ISO 8601, numbers with a point, what is no text left out."""
    match value:
        case None | bytes() | bytearray() | memoryview():
            return ""
        case str():
            return value.replace("\0", "")
        case bool():
            return "yes" if value else "no"
        case Decimal():
            return format(value, "f")
        case float():
            return str(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
        case datetime():
            return value.isoformat(sep=" ")
        case date():
            return value.isoformat()
        case dict() | list() | tuple():
            return orjson.dumps(value, default=str).decode()
        case _:
            return str(value)


def cells_of(row: Iterable[Any]) -> list[str]:
    """A row's cells."""
    return [cell_of(value) for value in row]


class Every(StrEnum):
    """How often a source is pulled by itself."""

    HOUR = "hour"
    DAY = "day"
    WEEK = "week"


@dataclass(frozen=True, slots=True, kw_only=True)
class Schedule:
    """When a source is pulled by itself. `at` is local time; `weekday` counts from Monday as 0. An hour needs neither."""

    every: Every
    at: time = time(5, 0)
    weekday: Annotated[int, pydantic.Field(ge=0, le=6)] = 0


def next_pull(schedule: Schedule, after: datetime, zone: ZoneInfo) -> datetime:
    """The first moment behind `after` (aware), in `zone`.

    Where clocks are put forward over `at`, it is as long after midnight as it would have been; where they are put
    back over it, the first of the two.
    """
    if schedule.every is Every.HOUR:
        return after + timedelta(hours=1)
    day = after.astimezone(zone).date()
    while True:
        moment = datetime.combine(day, schedule.at, tzinfo=zone).astimezone(after.tzinfo)
        if moment > after and (schedule.every is Every.DAY or day.weekday() == schedule.weekday):
            return moment
        day += timedelta(days=1)


SCHEDULE_FORM: StoredForm[Schedule] = form_of(Schedule)


@dataclass(frozen=True, slots=True, kw_only=True)
class PullFound:
    """What a pull found: its rows, what of them was new, changed, same or refused in the contacts, and what of them was
    new, changed or gone since the pull before (None for the first).
    """

    rows: int
    new: int
    changed: int
    same: int
    refused: int
    since_new: int | None = None
    since_changed: int | None = None
    gone: int | None = None


PULL_FORM: StoredForm[PullFound] = form_of(PullFound, sparse=True)
