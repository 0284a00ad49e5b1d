"""What people write back, read and answered, whatever it is made of."""

from datetime import UTC, datetime
from email import message_from_bytes, policy

from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.responses.replies import assemble_answer, assemble_forwarded, read_reply

ENVELOPE = Envelope(
    message_id="answer.1@skarnmuseum.example",
    date=datetime(2026, 11, 23, 9, tzinfo=UTC),
    from_name="Skarn Valley Mineral Museum",
    from_address="walks@skarnmuseum.example",
    to_name="Ada",
    to_address="ada@slatepost.example",
    reply_to=None,
    list_id=None,
    unsubscribe_url=None,
)
HEAD = st.sampled_from(["From", "Reply-To", "Subject", "References", "In-Reply-To", "Message-ID", "Content-Type"])
BYTES = st.binary(max_size=60).map(lambda told: told.replace(b"\n", b"").replace(b"\r", b""))
LETTERS = st.tuples(st.lists(st.tuples(HEAD, BYTES), max_size=8), st.binary(max_size=300)).map(
    lambda made: b"".join(name.encode() + b": " + told + b"\r\n" for name, told in made[0]) + b"\r\n" + made[1]
)


@given(LETTERS, st.text(max_size=100).filter(lambda told: "\0" not in told and told.isprintable()))
def test_any_letter_can_be_read_answered_and_forwarded(raw: bytes, words: str) -> None:
    reply = read_reply(raw)
    for made in (assemble_answer(words, reply, ENVELOPE), assemble_forwarded(raw, reply, ENVELOPE, "See:")):
        told = message_from_bytes(made, policy=policy.SMTP)
        # What somebody else wrote adds no header of its own.
        assert set(told.keys()) <= {
            "Date", "Message-ID", "From", "To", "Subject", "In-Reply-To", "References", "Auto-Submitted", "MIME-Version",
            "Content-Type", "Content-Transfer-Encoding",
        }  # fmt: skip
        assert (str(told["From"].addresses[0].addr_spec), len(told.defects)) == ("walks@skarnmuseum.example", 0)
    forwarded = message_from_bytes(assemble_forwarded(raw, reply, ENVELOPE, "See:"), policy=policy.SMTP)
    assert next(forwarded.iter_attachments()).get_content() == raw
    assert reply.mailto() is None or (reply.mailto() or "").isascii()


def test_an_answer_goes_to_the_reply_to_and_knows_attachments_and_quotes() -> None:
    raw = (
        "From: =?utf-8?q?Ma=C3=ABlle?= Grenat <m@slatepost.example>\r\nReply-To: home@quartzmail.example\r\n"
        "Subject: AW: Re: walks\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n"
        "Content-Type: text/plain; charset=utf-8\r\n\r\nDeux enfants ?\r\n\r\nOn Monday the museum wrote:\r\n> Dear\r\n\r\n--b\r\n"
        "Content-Type: image/jpeg; name=a.jpg\r\nContent-Disposition: attachment; filename*=utf-8''gr%C3%A8s.jpg\r\n\r\nx\r\n--b--\r\n"
    )
    reply = read_reply(raw.encode())
    assert (reply.from_name, reply.answer_to, reply.answer_subject) == (
        "Maëlle Grenat", "home@quartzmail.example", "Re: walks",
    )  # fmt: skip
    assert (reply.own, reply.attachments) == ("Deux enfants ?", ("grès.jpg",))
    assert reply.quoted == "On Monday the museum wrote:\n> Dear"
