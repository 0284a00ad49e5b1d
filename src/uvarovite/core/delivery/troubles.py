"""Why a run does not get on with its relay: one row for each reason, with its words and what to do.

What is stored is the code and its facts; the sentence is made for whoever looks at the dispatch.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import Coded

TROUBLES: Mapping[str, str] = {
    "log_in": "{where} refused the log-in of {user} with “{said}”. Check user and password.",
    "turned_away": "{where} turned us away with “{said}”.",
    "certificate": "{where} has a certificate that cannot be trusted: {said}.",
    "no_answer": "{where} did not answer in time. Is the port right?",
    "nothing_listens": "Nothing listens at {where}. Is the relay running, and is the port right?",
    "no_host": "There is no host of that name: {where}. Check the spelling.",
    "no_starttls": "{where} offers no STARTTLS. Choose another security, if the relay's keeper says so.",
    "no_connection": "No connection to {where}: {said}.",
    "other_key": "The password was stored under another secret key; enter it again.",
    "other_server": "The password was given for another server; enter it again.",
    # A trouble from before facts were kept, in the words of then.
    "told": "{words}",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayTrouble(Coded):
    """Why no conversation with a relay comes about."""

    words: ClassVar[Mapping[str, str]] = TROUBLES


TROUBLE_FORM: StoredForm[RelayTrouble] = form_of(RelayTrouble)


class RelayUnreachable(Exception):
    """No conversation came about. Whose doing: the relay's, the network's or the settings'. Try again later."""

    def __init__(self, code: str, **facts: str) -> None:
        self.trouble = RelayTrouble(code=code, facts={name: as_kept(fact) for name, fact in facts.items()})
        super().__init__(self.trouble.message)
