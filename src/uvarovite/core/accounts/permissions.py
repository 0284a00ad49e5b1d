"""What may be done here, and by whom: one row for each permission.

The order of the roles follows from one thought. Readers look. Authors do what can be undone. Releasers do what cannot:
a letter that is out, a person who is erased, a file that has left the house. Administrators set up what the others
work with.
"""

from dataclasses import dataclass
from enum import StrEnum


class Role(StrEnum):
    """What somebody does here; each may do what those before it may."""

    READER = "reader"
    AUTHOR = "author"
    RELEASER = "releaser"
    ADMINISTRATOR = "administrator"


class Permission(StrEnum):
    """One kind of thing that is done here."""

    LOOK = "look"
    OWN_ACCOUNT = "own_account"
    CONTACTS = "contacts"
    WRITE = "write"
    ANSWER = "answer"
    PAUSE = "pause"
    RELEASE = "release"
    LIFT = "lift"
    ERASE = "erase"
    EXPORT = "export"
    HAND_OUT = "hand_out"
    SET_UP = "set_up"
    ACCOUNTS = "accounts"
    AUDIT = "audit"


@dataclass(frozen=True, slots=True, kw_only=True)
class PermissionRow:
    """`role` is the least one that has it; `words` follow "may"; `for_tokens`: a program may be given it."""

    permission: Permission
    role: Role
    words: str
    for_tokens: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RoleRow:
    """A role in words."""

    role: Role
    label: str
    words: str


def _row(permission: Permission, role: Role, words: str, *, for_tokens: bool = True) -> PermissionRow:
    return PermissionRow(permission=permission, role=role, words=words, for_tokens=for_tokens)


PERMISSIONS = {
    row.permission: row
    for row in (
        _row(Permission.LOOK, Role.READER, "see contacts, audiences, messages, campaigns and runs"),
        _row(Permission.OWN_ACCOUNT, Role.READER, "change their own password and end their sessions", for_tokens=False),
        _row(Permission.CONTACTS, Role.AUTHOR, "add, import, change and delete contacts, and enter what they said"),
        _row(Permission.WRITE, Role.AUTHOR, "write audiences, messages and campaigns, and send tests to colleagues"),
        # A program that is taken over must not be able to write to people in the organisation's name.
        _row(Permission.ANSWER, Role.AUTHOR, "look after replies and answer them", for_tokens=False),
        _row(Permission.PAUSE, Role.AUTHOR, "pause a run"),
        _row(Permission.RELEASE, Role.RELEASER, "release campaigns, and resume or stop runs"),
        _row(Permission.LIFT, Role.RELEASER, "take entries off the suppression list"),
        _row(Permission.ERASE, Role.RELEASER, "erase people for good"),
        _row(Permission.EXPORT, Role.RELEASER, "save contacts to a file"),
        # A program that is taken over must not be able to mail the contacts to whom it likes.
        _row(Permission.HAND_OUT, Role.RELEASER, "send contacts’ data to any address", for_tokens=False),
        _row(Permission.SET_UP, Role.ADMINISTRATOR, "set up fields, topics, senders, relays and sources"),
        # Nor to make itself an account.
        _row(Permission.ACCOUNTS, Role.ADMINISTRATOR, "invite people and change their roles", for_tokens=False),
        _row(Permission.AUDIT, Role.ADMINISTRATOR, "read the audit log"),
    )
}

ROLES = (
    RoleRow(role=Role.READER, label="Reader", words="Looks at everything and changes nothing."),
    RoleRow(
        role=Role.AUTHOR,
        label="Author",
        words="Works with contacts, audiences, messages and campaigns, all that can be undone, and answers replies.",
    ),
    RoleRow(
        role=Role.RELEASER,
        label="Releaser",
        words="Releases campaigns too, exports and erases: what cannot be undone.",
    ),
    RoleRow(role=Role.ADMINISTRATOR, label="Administrator", words="Sets everything up, and invites people."),
)

_RANK = {role: rank for rank, role in enumerate(Role)}


def permissions_of(role: Role) -> frozenset[Permission]:
    """What somebody in this role may do."""
    return frozenset(row.permission for row in PERMISSIONS.values() if _RANK[row.role] <= _RANK[role])
