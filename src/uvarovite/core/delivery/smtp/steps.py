"""The two tables of an SMTP conversation: how a connection gets ready, and what becomes of one message on it.

The second one holds the promise: a message that breaks off before END cannot have been taken, one that breaks off in
END is known to nobody. Both are drawn in docs/states.md.
"""

from enum import StrEnum

from uvarovite.core.values.state_table import StateTable


class ConnectionStep(StrEnum):
    """How far a connection is."""

    GREETING = "greeting"
    HELLO = "hello"
    STARTTLS = "starttls"
    SECURING = "securing"
    LOG_IN = "log_in"
    READY = "ready"
    LEAVING = "leaving"
    OVER = "over"


class ConnectionEvent(StrEnum):
    """What moves a connection on."""

    GREETED = "greeted"
    PROTECT = "protect"
    AGREED = "agreed"
    PROTECTED = "protected"
    ASK_FOR_LOG_IN = "ask_for_log_in"
    CHALLENGED = "challenged"
    ADMITTED = "admitted"
    LEAVE = "leave"
    END = "end"


_C, _M = ConnectionStep, ConnectionEvent

CONNECTION: StateTable[ConnectionStep, ConnectionEvent] = StateTable(
    name="SMTP connection",
    start=_C.GREETING,
    moves={
        (_C.GREETING, _M.GREETED): _C.HELLO,
        (_C.HELLO, _M.PROTECT): _C.STARTTLS,
        (_C.STARTTLS, _M.AGREED): _C.SECURING,
        (_C.SECURING, _M.PROTECTED): _C.HELLO,
        (_C.HELLO, _M.ASK_FOR_LOG_IN): _C.LOG_IN,
        (_C.LOG_IN, _M.CHALLENGED): _C.LOG_IN,
        (_C.HELLO, _M.ADMITTED): _C.READY,
        (_C.LOG_IN, _M.ADMITTED): _C.READY,
        (_C.READY, _M.LEAVE): _C.LEAVING,
        **{(step, _M.END): _C.OVER for step in _C if step is not _C.OVER},
    },
)


class MailStep(StrEnum):
    """How far one message is. `mail`, `rcpt`, `data`: the reply to that command is what it waits for."""

    QUEUED = "queued"
    MAIL = "mail"
    RCPT = "rcpt"
    DATA = "data"
    TEXT = "text"
    END = "end"
    TOLD = "told"
    BROKEN = "broken"
    UNKNOWABLE = "unknowable"


class MailEvent(StrEnum):
    """What moves a message on. BREAK: the connection is gone, or what came is no answer."""

    BEGIN = "begin"
    AGREE = "agree"
    REFUSE = "refuse"
    WRITTEN = "written"
    BREAK = "break"


_S, _E = MailStep, MailEvent

MAIL: StateTable[MailStep, MailEvent] = StateTable(
    name="message of an SMTP conversation",
    start=_S.QUEUED,
    moves={
        (_S.QUEUED, _E.BEGIN): _S.MAIL,
        (_S.MAIL, _E.AGREE): _S.RCPT,
        (_S.RCPT, _E.AGREE): _S.DATA,
        (_S.DATA, _E.AGREE): _S.TEXT,
        (_S.TEXT, _E.WRITTEN): _S.END,
        (_S.END, _E.AGREE): _S.TOLD,
        **{(step, _E.REFUSE): _S.TOLD for step in (_S.QUEUED, _S.MAIL, _S.RCPT, _S.DATA, _S.END)},
        **{(step, _E.BREAK): _S.BROKEN for step in (_S.QUEUED, _S.MAIL, _S.RCPT, _S.DATA, _S.TEXT)},
        (_S.END, _E.BREAK): _S.UNKNOWABLE,
    },
)
