"""What an examination of the installation finds, in words with what to try."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import timedelta
from urllib.parse import urlsplit

from uvarovite.core.delivery.alignment import Standing
from uvarovite.services.delivery.waiting import Waiting
from uvarovite.services.organisation.signing import SigningView

# More than this and windows, consents and logs tell another time than people's clocks.
CLOCKS_APART = timedelta(seconds=2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """One part of the installation, how it is, and in words what that means and what to try."""

    part: str
    standing: Standing
    words: str


def _found(part: str, *, wrong: str = "", advice: str = "", well: str = "") -> Found:
    standing = Standing.WRONG if wrong else Standing.ADVICE if advice else Standing.WELL
    return Found(part=part, standing=standing, words=wrong or advice or well)


def database_found(place: str, reason: str) -> Found:
    """The database, and why nothing can be done with it, if that is so."""
    return _found("database", wrong=f"{reason.capitalize()}." if reason else "", well=f"{place} answers.")


def clocks_found(apart: timedelta) -> Found:
    """This machine's clock and the database's."""
    seconds = apart.total_seconds()
    words = (
        f"This machine’s clock and the database’s are {seconds:,.0f} s apart; the database’s counts. Set both by NTP."
    )
    return _found("clocks", advice=words if apart > CLOCKS_APART else "", well="This machine and the database agree.")


def workers_found(waiting: Waiting) -> Found:
    """Whether what is due waits for a worker."""
    late = waiting.overdue
    words = f"{late:,} batches have been due for more than a minute and nobody has them. Is a worker running?"
    return _found(
        "workers",
        wrong=words if late else "",
        advice="; ".join(waiting.not_released),
        well="Nothing that is due waits for a worker.",
    )


def relay_found(name: str, *, why_not: str, is_open: bool, milliseconds: int) -> Found:
    """A relay that was tried as far as the log-in. `is_open`: without TLS."""
    return _found(
        f"relay {name}",
        wrong=why_not,
        advice="It is reached without TLS: whoever is on the way reads along." if is_open else "",
        well=f"It answers, as far as the log-in, in {milliseconds:,} ms.",
    )


def signing_found(view: SigningView) -> Iterator[Found]:
    """The domains that messages come from."""
    for domain in view.domains:
        signs = any(key.signs and key.domain == domain for key in view.keys)
        advice = "" if signs else "Its messages are not signed (DKIM). Make a key in Set-up, under Signing."
        yield _found(f"domain {domain}", advice=advice, well="Its messages are signed.")


def names_found(*, answered: bool) -> Found:
    """The name server."""
    words = (
        "It does not answer: domains of addresses are not looked up, and nothing is found in the DNS. "
        "Set UVAROVITE_NAME_SERVER."
    )
    return _found("name server", wrong="" if answered else words, well="It answers.")


_AT_HOME: Sequence[str | None] = ("127.0.0.1", "localhost", "::1")


def address_found(url: str) -> Found:
    """Where the links in messages lead."""
    told = urlsplit(url)
    advice = ""
    if told.hostname in _AT_HOME:
        advice = f"Links in messages lead to {url}, which only this machine reaches. Set UVAROVITE_PUBLIC_URL."
    elif told.scheme != "https":
        advice = "It is reached without TLS; mail programs do not offer to leave with one click (RFC 8058). Put it behind https."
    return _found("address for readers", advice=advice, well=f"Links in messages lead to {url}.")
