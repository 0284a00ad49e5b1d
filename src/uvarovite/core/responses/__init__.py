"""Responses: the tokens in links, people told apart from machines, and requests to leave."""

from uvarovite.core.responses.detail import DETAIL_FORM, ResponseDetail, leaving_words
from uvarovite.core.responses.machines import BURST_LINKS, MACHINE_RULES, TOGETHER, Beside, Fetch, machine_reason
from uvarovite.core.responses.returns import leave_address, read_leave_address, read_return_address, return_address
from uvarovite.core.responses.tokens import Keyring, Purpose, Token, TokenWriter, derive_keyring, read_token, sign_token
from uvarovite.core.responses.unsubscribe import is_one_click

__all__ = [
    "BURST_LINKS",
    "DETAIL_FORM",
    "MACHINE_RULES",
    "TOGETHER",
    "Beside",
    "Fetch",
    "Keyring",
    "Purpose",
    "ResponseDetail",
    "Token",
    "TokenWriter",
    "derive_keyring",
    "is_one_click",
    "leave_address",
    "leaving_words",
    "machine_reason",
    "read_leave_address",
    "read_return_address",
    "read_token",
    "return_address",
    "sign_token",
]
