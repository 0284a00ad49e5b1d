"""Name look-up against the rehearsal's own name server, over UDP."""

import asyncio
from collections.abc import Awaitable, Callable

import pytest

from tests.support.ports import free_port
from uvarovite.core.contacts.verification import NameAnswer, Verdict, domain_verdict
from uvarovite.net.names import NameLookUp
from uvarovite.rehearsal.names import answer, serve_names


def asking(questions: Callable[[NameLookUp], Awaitable[list[NameAnswer]]], *, served: bool = True) -> list[NameAnswer]:
    async def run() -> list[NameAnswer]:
        port = free_port()
        server = await serve_names("127.0.0.1", port) if served else None
        try:
            return await questions(NameLookUp(f"127.0.0.1:{port}", patience_seconds=8 if served else 0.3))
        finally:
            if server is not None:
                server.close()

    return asyncio.run(run())


def test_a_domain_takes_mail_by_its_mail_host_or_by_its_address_and_else_it_does_not() -> None:
    domains = {
        "slatepost.example": (Verdict.TAKES_MAIL, "mail goes to mail.slatepost.example"),
        "tinmail.example": (Verdict.TAKES_MAIL, "an address of its own"),
        "nomail.example": (Verdict.CANNOT, "null MX"),
        "quartzmial.example": (Verdict.CANNOT, "no such domain"),
        "steinbrüche.example": (Verdict.TAKES_MAIL, "mail goes to mail.xn--"),
        "bare.example": (Verdict.CANNOT, "neither a mail host nor an address"),
        "no..domain": (Verdict.CANNOT, "no such domain"),
        "ö" * 80 + ".example": (Verdict.CANNOT, "no such domain"),
    }

    async def ask(look_up: NameLookUp) -> list[NameAnswer]:
        return [await look_up(domain) for domain in domains]

    for found, (verdict, words) in zip(asking(ask), domains.values(), strict=True):
        judged = domain_verdict(found)
        assert (judged.verdict, words in judged.reason) == (verdict, True), judged


def test_silence_is_no_verdict() -> None:
    async def ask(look_up: NameLookUp) -> list[NameAnswer]:
        return [await look_up("slatepost.example")]

    assert [domain_verdict(found).verdict for found in asking(ask, served=False)] == [Verdict.UNCHECKED]


@pytest.mark.parametrize("raw", [b"", b"\x00" * 11, b"\xff" * 600, b"\x00" * 12])
def test_the_name_server_answers_no_nonsense(raw: bytes) -> None:
    assert answer(raw) is None
