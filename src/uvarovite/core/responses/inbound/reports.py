"""What a report says about each recipient: delivery reports (RFC 3464, RFC 6533) and those that do not follow it."""

import re
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.delivery.answers import AnswerKind, Meaning, as_kept, classify_answer
from uvarovite.core.responses.inbound.phrases import FAILURES
from uvarovite.core.responses.inbound.reading import ReadMail


class Happened(StrEnum):
    """What became of a message for one recipient."""

    FAILED = "failed"
    DELAYED = "delayed"
    DELIVERED = "delivered"


class Weight(StrEnum):
    """How much a failure counts against an address: HARD suppresses it, SOFT does when there are several, NONE never does."""

    HARD = "hard"
    SOFT = "soft"
    NONE = "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class RecipientReport:
    """What a report says about one recipient; `address` is None where it names none. `said` is in the other side's words."""

    address: str | None
    happened: Happened
    status: str | None
    said: str
    meaning: Meaning
    weight: Weight


_ADDRESS = re.compile(r"[^\s<>\"'(),;:\[\]]+@[^\s<>\"'(),;:\[\]]+\.[^\s<>\"'(),;:\[\].]+")
_STATUS = re.compile(r"(?<![\d.])([245])\.(\d{1,3})\.(\d{1,3})(?![\d.]*\d)")
_CODE = re.compile(r"(?<![\d.#-])([45]\d\d)(?=[ \-#:])")
_XTEXT = re.compile(r"\+([0-9A-F]{2})")

# How much a failure counts by what it means; what is not named here counts a little.
WEIGHTS = {
    Meaning.UNKNOWN_ADDRESS: Weight.HARD,
    Meaning.MAILBOX_DISABLED: Weight.HARD,
    Meaning.GONE: Weight.HARD,
    Meaning.NEEDS_SMTPUTF8: Weight.HARD,
    # Tomorrow there may be room; it was too quick; it was about this message, or about us.
    Meaning.MAILBOX_FULL: Weight.NONE,
    Meaning.GREYLISTED: Weight.NONE,
    Meaning.SLOW_DOWN: Weight.NONE,
    Meaning.TOO_MANY: Weight.NONE,
    Meaning.CANNOT_TAKE_IT: Weight.NONE,
    Meaning.POLICY: Weight.NONE,
    Meaning.SENDER_ADDRESS: Weight.NONE,
    Meaning.SENDER_REFUSED: Weight.NONE,
    Meaning.NOT_UNDERSTOOD: Weight.NONE,
}


def weight_of(happened: Happened, meaning: Meaning) -> Weight:
    """How much it counts against the address."""
    return WEIGHTS.get(meaning, Weight.SOFT) if happened is Happened.FAILED else Weight.NONE


def meaning_of(status: str | None, said: str) -> Meaning:
    """What a failure means, by its status, by the reply in it, or by its words."""
    code = _CODE.search(said)
    worded = next((meaning for meaning, words in FAILURES if words.search(said)), None)
    if status is not None and not status.endswith(".0.0"):
        # A reply code that means nothing by itself.
        answer = classify_answer(int(status[0]) * 100 + 99, f"{status} {said}")
        # A policy that is in truth an address, and the like: "5.7.1 user unknown" is common.
        if answer.meaning is Meaning.POLICY and worded is Meaning.UNKNOWN_ADDRESS:
            return Meaning.UNKNOWN_ADDRESS
        return answer.meaning
    if worded is not None:
        return worded
    if code is not None:
        answer = classify_answer(int(code[1]), said[code.end() :].strip())
        return answer.meaning if answer.kind is not AnswerKind.ACCEPTED else Meaning.REFUSED
    return Meaning.LATER if status is not None and status.startswith("4") else Meaning.REFUSED


def of_recipient(address: str | None, happened: Happened, status: str | None, said: str) -> RecipientReport:
    """What is known of one recipient, with what it means."""
    meaning = meaning_of(status, said) if happened is not Happened.DELIVERED else Meaning.ACCEPTED
    return RecipientReport(
        address=address,
        happened=happened,
        status=status,
        said=as_kept(said)[:500],
        meaning=meaning,
        weight=weight_of(happened, meaning),
    )


def by_fields(mail: ReadMail) -> tuple[RecipientReport, ...]:
    """What the machine-readable part of a delivery report says (RFC 3464 section 2.3)."""
    groups = [group for part in mail.parts if part.kind.endswith("delivery-status") for group in part.fields]
    found = []
    for group in groups:
        told = group.get("final-recipient") or group.get("original-recipient")
        if told is None and not ("action" in group or "status" in group):
            continue
        status = _status(group.get("status", "")) or _status(group.get("diagnostic-code", ""))
        happened = _happened(group.get("action", ""), status)
        if happened is None:
            continue
        said = re.sub(r"(?i)^\s*(smtp|x-[\w-]+)\s*;\s*", "", group.get("diagnostic-code", ""))
        if not said and status is not None and status.endswith(".0.0"):
            # Some say the reason in their words alone.
            said = _line_about(mail.text, _address(told or ""))
        found.append(of_recipient(_address(told or ""), happened, status, said))
    return tuple(found)


def by_words(mail: ReadMail) -> tuple[RecipientReport, ...]:
    """What a report without a machine-readable part says: its header of failed recipients (Exim), or its text."""
    text = mail.text
    named = _ADDRESS.findall(mail.headers.get("x-failed-recipients", ""))
    if not named:
        own = {_address(mail.headers.get(name, "")) for name in ("from", "to", "return-path")}
        named = [one for one in dict.fromkeys(_ADDRESS.findall(_before_original(text))) if one.lower() not in own][:1]
    status = _status(text)
    happened = Happened.DELAYED if _DELAYED.search(mail.headers.get("subject", "")) else Happened.FAILED
    reports = []
    for one in dict.fromkeys(address.lower() for address in named):
        said = _line_about(text, one) or _line_of_reason(text)
        reports.append(of_recipient(one, happened, _status(said) or status, said))
    return tuple(reports) or (of_recipient(None, happened, status, _line_of_reason(text)),)


_DELAYED = re.compile(r"(?i)delay|warning|verz[öo]ger|retard|op[óo][źz]nien|still being retried|noch nicht")
_ORIGINAL = re.compile(
    r"(?im)^\W*(this is a copy of|(the )?(original|returned) message|(the )?headers? of|message headers|"
    r"original-?nachricht|urspr[üu]ngliche nachricht|message d.origine|oryginalna wiadomo)"
)


def _before_original(text: str) -> str:
    found = _ORIGINAL.search(text)
    return text[: found.start()] if found else text


def _happened(action: str, status: str | None) -> Happened | None:
    """What an action field says; the status where it says nothing that we know."""
    told = action.strip().lower()
    if told.startswith("fail"):
        return Happened.FAILED
    if told.startswith("delay"):
        return Happened.DELAYED
    if told.startswith(("deliver", "relay", "expand")):
        return Happened.DELIVERED
    if status is None:
        return None
    return {"5": Happened.FAILED, "4": Happened.DELAYED}.get(status[0], Happened.DELIVERED)


def _status(text: str) -> str | None:
    found = _STATUS.search(text)
    return ".".join(found.groups()) if found else None


def _address(told: str) -> str | None:
    """The address of a recipient field, "rfc822; ada@slatepost.example" (RFC 3464 section 2.3.1); folded."""
    _, _, behind = told.rpartition(";")
    found = _ADDRESS.search(behind) or _ADDRESS.search(_XTEXT.sub(lambda hex_: chr(int(hex_[1], 16)), behind))
    return found[0].lower() if found else None


def _line_about(text: str, address: str | None) -> str:
    """What is said about an address: the lines at it and behind it, up to an empty one."""
    if address is None:
        return ""
    place = text.lower().find(address)
    if place < 0:
        return ""
    begin = text.rfind("\n", 0, place) + 1
    return " ".join(re.split(r"\n[ \t]*\r?\n", text[begin : begin + 1_000], maxsplit=1)[0].split())


def _line_of_reason(text: str) -> str:
    """The first line that holds a status, a reply or words of a reason."""
    for line in text.splitlines():
        if _STATUS.search(line) or _CODE.search(line) or any(words.search(line) for _, words in FAILURES):
            return " ".join(line.split())
    return ""
