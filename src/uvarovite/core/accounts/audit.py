"""What the audit log knows: one row for each kind of thing that is done, with its sentence.

An entry is a code and its facts. The sentence follows the actor's name: "Signe Vale" "released Autumn walks to 3,420
people".
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.values.sentences import facts_in, sentence


class AuditArea(StrEnum):
    """Which part of the work it belongs to."""

    ACCOUNTS = "accounts"
    CONTACTS = "contacts"
    WRITING = "writing"
    SENDING = "sending"
    SET_UP = "set_up"


AREA_LABELS = {
    AuditArea.ACCOUNTS: "Users and tokens",
    AuditArea.CONTACTS: "Contacts",
    AuditArea.WRITING: "Audiences and messages",
    AuditArea.SENDING: "Campaigns and runs",
    AuditArea.SET_UP: "Set-up",
}


class Action(StrEnum):
    """What was done."""

    SIGNED_IN = "signed_in"
    SIGN_IN_FAILED = "sign_in_failed"
    PASSWORD_CHANGED = "password_changed"  # noqa: S105 - what was done
    USER_ADDED = "user_added"
    USER_INVITED = "user_invited"
    USER_JOINED = "user_joined"
    LINK_MADE = "link_made"
    ROLE_CHANGED = "role_changed"
    USER_LEFT = "user_left"
    SESSIONS_ENDED = "sessions_ended"
    TOKEN_MADE = "token_made"  # noqa: S105
    TOKEN_REVOKED = "token_revoked"  # noqa: S105

    CONTACT_ADDED = "contact_added"
    CONSENT_RECORDED = "consent_recorded"
    SUPPRESSED = "suppressed"
    POST_REFUSED = "post_refused"
    POST_ALLOWED = "post_allowed"
    SUPPRESSIONS_IMPORTED = "suppressions_imported"
    SUPPRESSION_LIFTED = "suppression_lifted"
    SUPPRESSIONS_EXPORTED = "suppressions_exported"
    CONTACTS_MERGED = "contacts_merged"
    WISH_ENTERED = "wish_entered"
    IMPORTED = "imported"
    IMPORT_UNDONE = "import_undone"
    CONTACTS_CHANGED = "contacts_changed"
    CONTACTS_DELETED = "contacts_deleted"
    CONTACTS_ERASED = "contacts_erased"
    CHANGE_UNDONE = "change_undone"
    CONTACTS_EXPORTED = "contacts_exported"
    RECORD_EXPORTED = "record_exported"
    LETTER_EXPORTED = "letter_exported"
    TABLE_SENT = "table_sent"
    SOURCE_PULLED = "source_pulled"

    AUDIENCE_SAVED = "audience_saved"
    AUDIENCE_DELETED = "audience_deleted"
    AUDIENCE_FROZEN = "audience_frozen"
    AUDIENCE_THAWED = "audience_thawed"
    MESSAGE_SAVED = "message_saved"
    MESSAGE_PUT_AWAY = "message_put_away"
    COMMENT_WRITTEN = "comment_written"
    PICTURE_KEPT = "picture_kept"
    ATTACHMENT_KEPT = "attachment_kept"
    MESSAGE_PUT_BACK = "message_put_back"
    TEST_SENT = "test_sent"
    TEST_LIST_SAVED = "test_list_saved"
    TEST_LIST_REMOVED = "test_list_removed"

    CAMPAIGN_SAVED = "campaign_saved"
    PROOF_SEEN = "proof_seen"
    LETTERS_MADE = "letters_made"
    LETTERS_TAKEN = "letters_taken"
    LETTERS_PRINTED = "letters_printed"
    LETTERS_DROPPED = "letters_dropped"
    ADVICE_ACCEPTED = "advice_accepted"
    ADVICE_STANDS = "advice_stands"
    RELEASED = "released"
    DRY_RUN = "dry_run"
    REHEARSED = "rehearsed"
    REHEARSAL_DROPPED = "rehearsal_dropped"
    RELEASE_PLANNED = "release_planned"
    RELEASE_TAKEN_BACK = "release_taken_back"
    RUN_PAUSED = "run_paused"
    RUN_BRAKED = "run_braked"
    RUN_RESUMED = "run_resumed"
    RUN_PACED = "run_paced"
    RUN_STOPPED = "run_stopped"
    RUN_LEFT = "run_left"
    LOG_EXPORTED = "log_exported"
    REPLY_ANSWERED = "reply_answered"
    COPY_MADE_PUBLIC = "copy_made_public"
    COPY_TAKEN_BACK = "copy_taken_back"

    ORGANISATION_CHANGED = "organisation_changed"
    LIMITS_CHANGED = "limits_changed"
    READERS_CHANGED = "readers_changed"
    SENDER_SAVED = "sender_saved"
    SIGNING_KEY_MADE = "signing_key_made"
    SIGNING_BEGAN = "signing_began"
    SIGNING_ENDED = "signing_ended"
    SENDER_REMOVED = "sender_removed"
    RELAY_CHANGED = "relay_changed"
    RELAY_REMOVED = "relay_removed"
    POOL_SAVED = "pool_saved"
    POOL_REMOVED = "pool_removed"
    SEALED_ANEW = "sealed_anew"
    TOPIC_SAVED = "topic_saved"
    TOPIC_REMOVED = "topic_removed"
    FORM_SAVED = "form_saved"
    FIELD_SAVED = "field_saved"
    FIELD_REMOVED = "field_removed"
    FIELD_RESTORED = "field_restored"
    SOURCE_SAVED = "source_saved"
    SOURCE_REMOVED = "source_removed"


@dataclass(frozen=True, slots=True, kw_only=True)
class ActionRow:
    """`words` is what follows the actor's name, the facts in braces: `{people:contact|contacts}` with its noun."""

    action: Action
    area: AuditArea
    words: str

    @property
    def facts(self) -> frozenset[str]:
        """The facts that an entry has."""
        return facts_in(self.words)


def _rows(area: AuditArea, words: Mapping[Action, str]) -> dict[Action, ActionRow]:
    return {action: ActionRow(action=action, area=area, words=text) for action, text in words.items()}


ACTIONS: dict[Action, ActionRow] = (
    _rows(
        AuditArea.ACCOUNTS,
        {
            Action.SIGNED_IN: "signed in from {origin}",
            Action.SIGN_IN_FAILED: "could not sign in from {origin}: the password was wrong",
            Action.PASSWORD_CHANGED: "changed their password; {sessions:other session|other sessions} ended",
            Action.USER_ADDED: "made an account for {name} as {role}",
            Action.USER_INVITED: "invited {name} as {role}",
            Action.USER_JOINED: "chose a password and came in from {origin}",
            Action.LINK_MADE: "made a link for {name}",
            Action.ROLE_CHANGED: "made {name} {role}; before: {before}",
            Action.USER_LEFT: "closed the account of {name}",
            Action.SESSIONS_ENDED: "ended {sessions:session|sessions} of {name}",
            Action.TOKEN_MADE: "made the token {token}, which may: {scopes}",
            Action.TOKEN_REVOKED: "revoked the token {token} of {name}",
        },
    )
    | _rows(
        AuditArea.CONTACTS,
        {
            Action.CONTACT_ADDED: "added contact {contact}",
            Action.CONSENT_RECORDED: "recorded for contact {contact} and {topic}: {kind}",
            Action.WISH_ENTERED: "recorded of contact {contact} what may be noted of them: {wish}",
            Action.POST_REFUSED: "recorded that contact {contact} wants no post",
            Action.POST_ALLOWED: "recorded that contact {contact} wants post: {reason}",
            Action.SUPPRESSED: "suppressed {entries:address or domain|addresses or domains}",
            Action.SUPPRESSIONS_IMPORTED: "imported {entries:suppression|suppressions} from {file}",
            Action.SUPPRESSION_LIFTED: "lifted suppression {suppression}",
            Action.SUPPRESSIONS_EXPORTED: "exported the suppression list",
            Action.CONTACTS_MERGED: "merged {people:contact|contacts} into others",
            Action.IMPORTED: "imported {file}: {new} new, {changed} changed, {same} the same, {refused} refused",
            Action.IMPORT_UNDONE: "undid the import of {file}",
            Action.CONTACTS_CHANGED: "changed {people:contact|contacts}: {what}",
            Action.CONTACTS_DELETED: "deleted {people:contact|contacts}",
            Action.CONTACTS_ERASED: "erased {people:contact|contacts} for good",
            Action.CHANGE_UNDONE: "undid: {what}",
            Action.CONTACTS_EXPORTED: "exported {people:contact|contacts} as {form}, columns: {columns}",
            Action.RECORD_EXPORTED: "exported all that is known about contact {contact}",
            Action.LETTER_EXPORTED: "exported the letter to contact {contact} as {form}",
            Action.TABLE_SENT: "sent {people:contact|contacts} to {to}, columns: {columns}",
            Action.SOURCE_PULLED: "fetched people from {source}",
        },
    )
    | _rows(
        AuditArea.WRITING,
        {
            Action.AUDIENCE_SAVED: "saved the audience {name}",
            Action.AUDIENCE_DELETED: "deleted the audience {name}",
            Action.AUDIENCE_FROZEN: "froze the audience {name}",
            Action.AUDIENCE_THAWED: "thawed the audience {name}",
            Action.MESSAGE_SAVED: "saved version {version} of the message {name}",
            Action.MESSAGE_PUT_AWAY: "put the message {name} away",
            Action.MESSAGE_PUT_BACK: "put the message {name} back",
            Action.COMMENT_WRITTEN: "commented on the words of {name}",
            Action.PICTURE_KEPT: "uploaded the picture {name}",
            Action.ATTACHMENT_KEPT: "uploaded the file {name}",
            Action.TEST_SENT: "sent a test to {to}",
            Action.TEST_LIST_SAVED: "saved the list of tests {name}",
            Action.TEST_LIST_REMOVED: "removed the list of tests {name}",
        },
    )
    | _rows(
        AuditArea.SENDING,
        {
            Action.CAMPAIGN_SAVED: "saved the campaign {name}",
            Action.PROOF_SEEN: "found a proof of {name} right",
            Action.LETTERS_MADE: "laid out {letters:letter|letters} on paper of {name}",
            Action.LETTERS_TAKEN: "downloaded {letters:letter|letters} on paper of {name}",
            Action.LETTERS_PRINTED: "said that {letters:letter|letters} of {name} were printed",
            Action.LETTERS_DROPPED: "threw {letters:letter|letters} on paper of {name} away",
            Action.ADVICE_ACCEPTED: "accepted advice on {name} (“{advice}”): {reason}",
            Action.ADVICE_STANDS: "took back that advice on {name} was accepted",
            Action.DRY_RUN: "saved what would go out of {name}",
            Action.REHEARSED: "rehearsed {name} in the scenario “{scenario}”",
            Action.REHEARSAL_DROPPED: "threw away a rehearsal of {name}",
            Action.RELEASE_PLANNED: "planned the release of {name} for {at}",
            Action.RELEASE_TAKEN_BACK: "took back the planned release of {name}",
            Action.RELEASED: "released {name} to {people:person|people}",
            Action.RUN_PAUSED: "paused {name}",
            Action.RUN_BRAKED: "paused {name} by its brake: {why}",
            Action.RUN_RESUMED: "resumed {name}",
            Action.RUN_PACED: "changed the pace of {name} from {before} to {after}",
            Action.RUN_STOPPED: "stopped {name}",
            Action.LOG_EXPORTED: "exported the send log of {name} ({people:person|people}) as {form}",
            Action.REPLY_ANSWERED: "answered a reply of {to}",
            Action.COPY_MADE_PUBLIC: "let anybody who has the link read {name}, run {number}",
            Action.COPY_TAKEN_BACK: "took the public copy of {name}, run {number}, back",
            Action.RUN_LEFT: "sends nothing more of {name} to {people:person|people} ({state})",
        },
    )
    | _rows(
        AuditArea.SET_UP,
        {
            Action.ORGANISATION_CHANGED: "changed the organisation: {what}",
            Action.LIMITS_CHANGED: "changed the frequency limits",
            Action.READERS_CHANGED: "changed what is noted of readers, or their preference page",
            Action.SIGNING_KEY_MADE: "made the signing key {name}",
            Action.SIGNING_BEGAN: "signs what is released with {name}",
            Action.SIGNING_ENDED: "signs nothing more with {name}",
            Action.SENDER_SAVED: "saved the sender {name}",
            Action.SENDER_REMOVED: "removed the sender {name}",
            Action.RELAY_CHANGED: "changed the relay {name}",
            Action.RELAY_REMOVED: "removed the relay {name}",
            Action.POOL_SAVED: "saved the pool of relays {name}",
            Action.POOL_REMOVED: "removed the pool of relays {name}",
            Action.SEALED_ANEW: "sealed {count} secrets with another key",
            Action.TOPIC_SAVED: "saved the topic {name}",
            Action.TOPIC_REMOVED: "removed the topic {name}",
            Action.FORM_SAVED: "saved the sign-up form {name}",
            Action.FIELD_SAVED: "saved the field {name}",
            Action.FIELD_REMOVED: "removed the field {name}",
            Action.FIELD_RESTORED: "restored the field {name}",
            Action.SOURCE_SAVED: "saved the source {name}",
            Action.SOURCE_REMOVED: "removed the source {name}",
        },
    )
)


def audit_words(action: str, facts: Mapping[str, object]) -> str:
    """The sentence of an entry. An action of another version of ours is said by its code, a fact that is not there as "?"."""
    row = ACTIONS.get(Action(action)) if action in set(Action) else None
    if row is None:
        return action.replace("_", " ")
    return sentence(row.words, facts)


def actions_said(text: str) -> list[Action]:
    """The actions whose own words contain a text, caseless."""
    wanted = text.casefold()
    return [row.action for row in ACTIONS.values() if wanted in row.words.casefold()]
