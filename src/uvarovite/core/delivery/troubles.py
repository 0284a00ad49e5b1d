"""Why a run does not get on with its relay: one row for each reason, with its words and what to do.

What is stored is the code and its facts; the sentence is made for whoever looks at the dispatch.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import ClassVar

from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import Coded

TROUBLES: Mapping[str, str] = {
    "log_in": "{where} refused the log-in of {user} with “{said}”. Check user and password.",
    "refuses_us": "{where} takes no mail from us: “{said}”. Is the log-in right, and may this sender send through it?",
    "turned_away": "{where} turned us away with “{said}”.",
    "certificate": "{where} has a certificate that cannot be trusted: {said}. Is the name right? A relay of your own house may need its "
    "authority’s certificate, in Set-up.",
    "no_answer": "{where} did not answer in time. Is the port right? A port for TLS says nothing to anybody who speaks without.",
    "nothing_listens": "Nothing listens at {where}. Is the relay running, and is the port right?",
    "no_host": "There is no host of that name: {where}. Check the spelling.",
    "no_tls": "{where} does not begin with TLS ({said}). Is the port right? Many ports begin without and offer STARTTLS.",
    "no_starttls": "{where} offers no STARTTLS. Choose another security, if the relay's keeper says so.",
    "no_connection": "No connection to {where}: {said}.",
    "no_log_in": "{where} offers no log-in that we know (it offers: {offered}). Is the port right? Many offer it behind STARTTLS only.",
    "injected": "{where} went on talking where TLS should begin; somebody may stand between us. Ask the relay's keeper.",
    "closed": "{where} closed the connection with “{said}”.",
    "broke": "The connection to {where} broke: {said}.",
    "silent": "{where} gave no answer within {seconds} s.",
    "nonsense": "{where} does not answer as a relay does: “{said}”.",
    "other_key": "The password was stored under another secret key; enter it again.",
    "signing_key": "The signing key {name} was sealed under another secret key. Make another one in Set-up, and release again.",
    "other_server": "The password was given for another server; enter it again.",
    # A trouble from before facts were kept, in the words of then.
    "told": "{words}",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayTrouble(Coded):
    """Why no conversation with a relay comes about."""

    words: ClassVar[Mapping[str, str]] = TROUBLES


def relay_trouble(code: str, **facts: str) -> RelayTrouble:
    """A trouble with its facts, which may be a relay's own words."""
    return RelayTrouble(code=code, facts={name: as_kept(fact) for name, fact in facts.items()})


# A relay in trouble is left alone, each time for longer, and is then tried again.
_RESTS = tuple(timedelta(seconds=seconds) for seconds in (15, 30, 60, 120, 300, 600))


def rest_after(rests: int) -> timedelta:
    """How long a relay rests that has rested so many times, one after another."""
    return _RESTS[min(rests, len(_RESTS) - 1)]


TROUBLE_FORM: StoredForm[RelayTrouble] = form_of(RelayTrouble)


class RelayUnreachable(Exception):
    """No conversation came about. Whose doing: the relay's, the network's or the settings'. Try again later."""

    def __init__(self, trouble: RelayTrouble) -> None:
        self.trouble = trouble
        super().__init__(trouble.message)
