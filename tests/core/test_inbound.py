"""Mail that comes in: what each message is, whatever it is made of."""

from email.message import EmailMessage

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from uvarovite.core.delivery.answers import Meaning
from uvarovite.core.responses.inbound import Happened, MailKind, Weight, classify_mail

ADA = "ada@slatepost.example"
MESSAGE_ID = "<8040.walks@skarnmuseum.example>"
ORIGINAL = (
    f"Return-Path: <return+abc@bounces.example>\nFrom: walks@skarnmuseum.example\nTo: {ADA}\n"
    f"Message-ID: {MESSAGE_ID}\nSubject: Two walks are open\n\nDear Ada, unsubscribe here.\n"
)


def mail(
    text: str = "", *, sender: str = f"Ada <{ADA}>", subject: str = "Re: Two walks are open", **headers: str
) -> bytes:
    """A message in plain text; headers by name, `_` for `-`."""
    made = EmailMessage()
    made["From"], made["To"], made["Subject"] = sender, "walks@skarnmuseum.example", subject
    for name, value in headers.items():
        made[name.replace("_", "-")] = value
    made.set_content(text)
    return made.as_bytes()


def report(
    *groups: str,
    text: str = "It could not be delivered.",
    kind: str = "delivery-status",
    original: str | None = ORIGINAL,
    original_kind: str = "message/rfc822",
    status_kind: str = "message/delivery-status",
    outer: str = "multipart/report",
) -> bytes:
    """A report in its standard form: `groups` are those of its recipients."""
    fields = "\n\n".join(["Reporting-MTA: dns; mx.slatepost.example", *groups])
    parts = [f"Content-Type: text/plain; charset=utf-8\n\n{text}", f"Content-Type: {status_kind}\n\n{fields}\n"]
    if original is not None:
        parts.append(f"Content-Type: {original_kind}\n\n{original}")
    body = "".join(f"--b\n{part}\n" for part in parts)
    return (
        "From: Mail Delivery System <MAILER-DAEMON@mx.slatepost.example>\nTo: return+abc@bounces.example\n"
        f"Subject: Undelivered Mail\nMIME-Version: 1.0\nContent-Type: {outer}; report-type={kind}; boundary=b\n\n{body}--b--\n"
    ).encode()


def group(status: str, said: str = "", *, action: str = "failed", recipient: str = f"rfc822; {ADA}") -> str:
    told = f"Final-Recipient: {recipient}\nAction: {action}\nStatus: {status}"
    return f"{told}\nDiagnostic-Code: smtp; {said}" if said else told


def words(
    subject: str, text: str, sender: str = "Mailer-Daemon <mailer-daemon@mx.slatepost.example>", **headers: str
) -> bytes:
    return mail(text, sender=sender, subject=subject, **headers)


# (what, message, what it means, how much it counts, the status that is told)
FAILURES: list[tuple[str, bytes, Meaning, Weight, str | None]] = [
    ("unknown", report(group("5.1.1", f"550 5.1.1 <{ADA}>: user unknown")), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("disabled", report(group("5.2.1", "550 5.2.1 disabled")), Meaning.MAILBOX_DISABLED, Weight.HARD, "5.2.1"),
    ("full", report(group("5.2.2", "552 5.2.2 over quota")), Meaning.MAILBOX_FULL, Weight.NONE, "5.2.2"),
    ("full for days", report(group("4.2.2", "452 4.2.2 full")), Meaning.MAILBOX_FULL, Weight.NONE, "4.2.2"),
    ("expired", report(group("4.4.7", "connection timed out")), Meaning.LATER, Weight.SOFT, "4.4.7"),
    ("too big", report(group("5.3.4", "552 5.3.4 too big")), Meaning.CANNOT_TAKE_IT, Weight.NONE, "5.3.4"),
    ("denied", report(group("5.7.1", "554 5.7.1 Relay access denied")), Meaning.POLICY, Weight.NONE, "5.7.1"),
    ("policy that is none", report(group("5.7.1", "550 5.7.1 no such user here")), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.7.1"),
    ("greylisted to the end", report(group("4.7.1", "451 4.7.1 come back")), Meaning.GREYLISTED, Weight.NONE, "4.7.1"),
    ("no domain", report(group("5.1.2", "Host not found")), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.2"),
    ("words alone", report(group("5.0.0"), text=f"  {ADA}\n    Unrouteable address\n"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.0.0"),
    ("words, full", report(group("5.0.0"), text=f"{ADA}:\nthe mailbox is full\n\nmore"), Meaning.MAILBOX_FULL, Weight.NONE, "5.0.0"),
    ("no action", report(f"Final-Recipient: rfc822; {ADA}\nStatus: 5.1.1"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("status in the diagnostic", report(f"Original-Recipient: rfc822;{ADA}\nAction: failed\nDiagnostic-Code: smtp; 550 5.1.1 unknown"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("angles", report(group("5.1.1", recipient=f"RFC822; <{ADA.upper()}>")), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("international", report(group("5.1.1", recipient=f"utf-8; {ADA}"), status_kind="message/global-delivery-status"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("mixed", report(group("5.1.1"), outer="multipart/mixed"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("no original", report(group("5.1.1"), original=None), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("headers of it", report(group("5.1.1"), original_kind="text/rfc822-headers"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("header of failed", words("Mail delivery failed: returning message to sender", f"{ADA}\n  host mx [192.0.2.7]\n  550 5.1.1 Unknown", X_Failed_Recipients=ADA), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("text alone", words("failure notice", f"Hi. This is the mail system.\n\n<{ADA}>:\n192.0.2.7 said: 550 No such user here\n"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, None),
    ("in German", words("Unzustellbar: Zwei Wanderungen", f"Ihre Nachricht an {ADA} wurde nicht zugestellt:\n#550 5.1.1 User unknown"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("in French", words("Échec de la remise", f"Votre message à {ADA} : 552 5.2.2 boîte pleine", sender="postmaster@slatepost.example"), Meaning.MAILBOX_FULL, Weight.NONE, "5.2.2"),
    ("in Polish", words("Nie dostarczono wiadomości", f"Adres {ADA}: 550 5.1.1 nie ma takiego użytkownika"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.1.1"),
    ("in Spanish", words("No se pudo entregar", f"El mensaje a {ADA}: 550 5.4.4 sin destino"), Meaning.UNKNOWN_ADDRESS, Weight.HARD, "5.4.4"),
    ("spam, they say", words("Returned mail: see below", f"{ADA}: 554 blocked by our spam policy"), Meaning.POLICY, Weight.NONE, None),
]  # fmt: skip


@pytest.mark.parametrize(
    ("raw", "meaning", "weight", "status"), [row[1:] for row in FAILURES], ids=[row[0] for row in FAILURES]
)
def test_a_delivery_report_says_who_why_and_how_much_it_counts(
    raw: bytes, meaning: Meaning, weight: Weight, status: str | None
) -> None:
    told = classify_mail(raw, sender="")
    assert told.kind is MailKind.REPORT
    (one,) = told.reports
    assert (one.address, one.happened, one.meaning, one.weight, one.status) == (
        ADA,
        Happened.FAILED,
        meaning,
        weight,
        status,
    )


def test_recipients_are_told_apart_and_what_is_late_or_arrived_is_no_failure() -> None:
    told = classify_mail(
        report(
            group("5.1.1"),
            group("4.4.1", "timeout", action="delayed", recipient="rfc822; ben@slatepost.example"),
            group("2.0.0", action="delivered", recipient="rfc822; cai@slatepost.example"),
            group("2.0.0", action="relayed", recipient="rfc822; dai@slatepost.example"),
        )
    )
    assert [(one.address, one.happened, one.weight) for one in told.reports] == [
        (ADA, Happened.FAILED, Weight.HARD),
        ("ben@slatepost.example", Happened.DELAYED, Weight.NONE),
        ("cai@slatepost.example", Happened.DELIVERED, Weight.NONE),
        ("dai@slatepost.example", Happened.DELIVERED, Weight.NONE),
    ]
    late = classify_mail(words("Warning: message delayed 4 hours", f"{ADA}: 450 4.2.0 try again"), sender="")
    assert [(one.happened, one.weight) for one in late.reports] == [(Happened.DELAYED, Weight.NONE)]


def test_a_report_leads_to_the_message_that_it_is_about() -> None:
    whole = classify_mail(report(group("5.1.1")))
    assert whole.about[0] == MESSAGE_ID
    assert whole.returned_to == ("return+abc@bounces.example",)
    by_text = classify_mail(
        words("failure notice", f"{ADA}: 550 no such user\n\nMessage-ID: {MESSAGE_ID}\n"), sender=""
    )
    assert by_text.about == (MESSAGE_ID,)
    # A report about a report: the message within the message within it.
    inner = report(group("5.1.1")).decode().replace("boundary=b", "boundary=c").replace("--b", "--c")
    nested = classify_mail(report(group("5.4.6", "loop", recipient="rfc822; other@slatepost.example"), original=inner))
    assert MESSAGE_ID in nested.about
    assert [one.address for one in nested.reports] == ["other@slatepost.example"]
    answer = classify_mail(mail("I will come.", In_Reply_To=MESSAGE_ID, References=f"<a@b.example> {MESSAGE_ID}"))
    assert answer.about == (MESSAGE_ID, "<a@b.example>")


def complaint(kind: str) -> bytes:
    fields = f"Feedback-Type: {kind}\nUser-Agent: Reports/1\nVersion: 1\nOriginal-Rcpt-To: <{ADA}>"
    body = f"--b\nContent-Type: text/plain\n\nThis is an abuse report.\n--b\nContent-Type: message/feedback-report\n\n{fields}\n\n--b\nContent-Type: message/rfc822\n\n{ORIGINAL}\n--b--\n"
    head = "From: reports@slatepost.example\nSubject: FW: Two walks\nMIME-Version: 1.0\nContent-Type: multipart/report; report-type=feedback-report; boundary=b\n\n"
    return (head + body).encode()


def test_a_complaint_names_who_complains_and_of_what() -> None:
    for kind in ("abuse", "fraud", "Abuse"):
        told = classify_mail(complaint(kind))
        assert (told.kind, told.sign, told.complained_of) == (MailKind.COMPLAINT, "feedback", ADA)
        assert told.about == (MESSAGE_ID,)
    assert classify_mail(complaint("not-spam")).kind is MailKind.OTHER


AUTOMATIC = {
    "auto_submitted": mail("I am away.", Auto_Submitted="auto-replied"),
    "automatic_header": mail("I am away.", X_Autoreply="yes"),
    "receipt": report(f"Final-Recipient: rfc822; {ADA}\nDisposition: manual-action; displayed", kind="disposition-notification", status_kind="message/disposition-notification"),
    "from_nobody": mail("Your ticket has number 7.", sender="mailer-daemon@slatepost.example", subject="Ticket"),
}  # fmt: skip
AUTOMATIC_SUBJECTS = [
    "Automatic reply: Two walks are open", "Out of Office", "Re: Autoreply: walks", "Automatische Antwort: Wanderungen", "Abwesenheitsnotiz",
    "Réponse automatique : promenades", "Absent du bureau", "Odpowiedź automatyczna", "Jestem na urlopie", "Respuesta automática", "Fuera de la oficina",
]  # fmt: skip


def test_machines_that_answer_are_told_from_people() -> None:
    for sign, raw in AUTOMATIC.items():
        told = classify_mail(raw)
        assert (told.kind, told.sign) == (MailKind.AUTOMATIC, sign)
    for subject in AUTOMATIC_SUBJECTS:
        assert (
            classify_mail(mail("Back on Monday. To unsubscribe, wait.", subject=subject)).kind is MailKind.AUTOMATIC
        ), subject
    assert classify_mail(mail("I am away.", Auto_Submitted="no")).kind is MailKind.REPLY
    assert classify_mail(mail("Our news", List_Id="<news.slatepost.example>")).kind is MailKind.OTHER


LEAVING = [
    "unsubscribe", "Unsubscribe!", "UNSUBSCRIBE ME", "Please unsubscribe me.", "please remove me from this list", "Remove me from your mailing list, thanks",
    "Take me off your list.", "Please take me off this mailing list immediately", "Stop", "stop sending me emails", "Please stop emailing me.",
    "Don’t send me any more emails", "Do not contact me again", "I want to unsubscribe.", "I would like to be removed from the list", "opt out", "No more emails please",
    "Hello,\n\nplease unsubscribe me.\n\nKind regards\nAda Thwaite-Gray", "Dear Sir or Madam,\nplease remove me from your list. Thank you!\n\nAda",
    "Abmelden", "Bitte abmelden", "Bitte melden Sie mich ab", "Bitte tragen Sie mich aus dem Verteiler aus.", "Bitte nehmen Sie mich aus dem Verteiler",
    "Ich möchte keine weiteren E-Mails erhalten", "Bitte keine weiteren Mails mehr", "Guten Tag,\n\nbitte löschen Sie mich aus dem Verteiler.\n\nMit freundlichen Grüßen\nEdda Öttinger",
    "Désabonner", "Merci de me désabonner", "Veuillez me retirer de votre liste.", "Bonjour,\nje souhaite me désinscrire.\nCordialement,\nBenoît d’Ardoise", "plus de mails",
    "Wypisz mnie", "Proszę mnie wypisać.", "Proszę wypisać mnie z listy", "rezygnuję", "Dzień dobry,\nproszę usunąć mój adres.\nPozdrawiam\nŚwiętosława", "Proszę nie wysyłać mi więcej wiadomości",
    "baja", "Quiero darme de baja", "No me envíen más correos",
]  # fmt: skip
LETTERS = [
    "How do I unsubscribe my late mother? She has moved to Breccia.", "I don't want to unsubscribe, but could you write less often?",
    "Please remove me from the walk on Saturday, I cannot come.", "Unsubscribe me from the owls, but keep me on for the walks, please: I love them.",
    "My neighbour asked how to unsubscribe. I told him to press the link.", "Stop! I have found my scarf. No need to search.", "Please stop by when you are in Skarn.",
    "I will come. Ada", "Thank you!", "Remove the old photograph from the wall, it is ugly.", "No more parking at the mill?", "Please delete my pledge of 50 and put 60.",
    "Ich möchte mich nicht abmelden, nur eine Frage stellen.", "Bitte melden Sie mich für die Wanderung an.", "Bitte melden Sie mich von der Wanderung ab.", "Wo kann man sich abmelden? Und wann öffnet das Museum?",
    "Je voudrais me désabonner mais le lien ne marche pas, pouvez-vous aussi changer mon adresse ?", "Merci de me retirer de la promenade de samedi.",
    "Proszę wypisać mnie z wycieczki w sobotę.", "Czy mogę wypisać się później?", "Quiero darme de alta en la lista.", "Keep my friend on the list. Unsubscribe me. She reads it gladly.",
]  # fmt: skip


def test_only_a_request_and_nothing_else_is_a_request_to_leave() -> None:
    quoted = f"\n\nOn Mon, 23 Nov 2026 at 09:00, The museum wrote:\n> {ORIGINAL}"
    for text in LEAVING:
        for raw in (mail(text), mail(text + quoted), mail("", subject=text) if "\n" not in text else mail(text)):
            told = classify_mail(raw)
            assert told.kind is MailKind.LEAVE, text
    for text in LETTERS:
        for raw in (mail(text), mail(text + quoted), mail(text, subject="Re: unsubscribe")):
            told = classify_mail(raw)
            assert told.kind is MailKind.REPLY, text
            assert told.own == text
    assert (
        classify_mail(mail("<p>Please unsubscribe me</p>", subject="x").replace(b"text/plain", b"text/html")).kind
        is MailKind.LEAVE
    )


sentences = st.lists(
    st.text(st.characters(codec="utf-8", exclude_characters="\r\n>"), min_size=1, max_size=60), min_size=1, max_size=4
)


@settings(max_examples=150)
@given(request=st.sampled_from(LEAVING[:18]), others=sentences, before=st.booleans())
def test_a_letter_that_says_more_is_never_a_request(request: str, others: list[str], before: bool) -> None:
    more = "I saw the owls at the mill yesterday evening with my sister."
    text = "\n".join([*others, more, request] if before else [request, more, *others])
    assert classify_mail(mail("").replace(b"\n\n", b"\n\n" + text.encode(), 1)).kind is not MailKind.LEAVE


def nested(depth: int) -> bytes:
    told = "Content-Type: text/plain\n\nunsubscribe"
    for level in range(depth):
        told = f"Content-Type: multipart/mixed; boundary=b{level}\n\n--b{level}\n{told}\n--b{level}--\n"
    return f"From: {ADA}\nSubject: deep\nMIME-Version: 1.0\n{told}".encode()


@pytest.mark.parametrize(
    "raw",
    [
        b"", b"\x00" * 500, b"From: a@b.example\n", b"no colon here\n\ntext", nested(100), nested(3_000),
        b"From: a@b.example\nContent-Type: multipart/mixed; boundary=x\n\n--x\nbroken", b"From: a@b.example\nContent-Type: multipart/mixed\n\nno boundary",
        b"From: a@b.example\nContent-Type: text/plain; charset=klingon\n\n\xff\xfe words", b"From: a@b.example\nContent-Type: text/plain; charset=utf-16\n\nodd",
        b"From: =?utf-8?b?!!!?= <a@b.example>\nSubject: =?x-unknown?q?=FF?=\nContent-Transfer-Encoding: base64\n\n@@@", b"From: a@b.example\nSubject: " + b"x" * 2_000_000 + b"\n\nhello",
        b"From: a@b.example\n\n" + b"unsubscribe " * 500_000, b"Content-Type: message/delivery-status\n\nFinal-Recipient:\nStatus: 9.9.9.9\nAction: \x00\n",
        b"Content-Type: multipart/report; report-type*0=deli; report-type*1=very; boundary=b\n\n--b--",
    ],
)  # fmt: skip
def test_hostile_mail_is_read_as_far_as_it_goes(raw: bytes) -> None:
    told = classify_mail(raw)
    assert told.kind in (MailKind.OTHER, MailKind.REPLY)
    assert len(told.own) <= 50_000
    assert all(one.weight is not Weight.HARD for one in told.reports)


@settings(max_examples=200)
@given(raw=st.sampled_from([row[1] for row in FAILURES] + [complaint("abuse")]), data=st.data())
def test_no_bytes_of_a_report_make_it_fail(raw: bytes, data: st.DataObject) -> None:
    cut = data.draw(st.integers(0, len(raw)))
    broken = raw[:cut] + data.draw(st.binary(max_size=20)) + raw[cut + data.draw(st.integers(0, 40)) :]
    told = classify_mail(broken, sender=data.draw(st.sampled_from([None, "", ADA])))
    assert told.sign
    assert all(one.said.isprintable() or "\t" in one.said or "\n" in one.said or not one.said for one in told.reports)
