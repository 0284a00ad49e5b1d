"""what a relay's answer means is kept as a code"""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None

WORDS = {
    "accepted": "accepted",
    "unknown address": "unknown_address",
    "mailbox full": "mailbox_full",
    "mailbox disabled": "mailbox_disabled",
    "the receiving system cannot take this message": "cannot_take_it",
    "the relay does not understand us": "not_understood",
    "the address needs SMTPUTF8, which is not offered": "needs_smtputf8",
    "refused by policy": "policy",
    "greylisted: told to come back later": "greylisted",
    "rate limit: told to slow down": "slow_down",
    "the receiving system is busy": "busy",
    "the receiving system is closing the connection": "closing",
    "mailbox not available now": "not_now",
    "too many messages at once": "too_many",
    "the relay wants a log-in": "wants_log_in",
    "the relay refused the log-in": "log_in_refused",
    "the person is not there any more": "gone",
    "the address is not allowed": "not_allowed",
    "told to come back later": "later",
    "refused": "refused",
    "an answer that is none": "no_answer",
    "the connection broke before the message was handed over": "broke_before",
    "the connection broke before the answer": "broke_after",
    "the relay could not be reached": "unreachable",
    "the message could not be made": "not_made",
    "the worker stopped before the answer": "worker_stopped",
}


def _coded(column: str) -> str:
    cases = " ".join(f"WHEN '{words}' THEN '{code}'" for words, code in WORDS.items())
    return f"CASE {column} {cases} ELSE {column} END"


def upgrade() -> None:
    """Apply. What no version of ours has said stays as it was told."""
    op.execute("ALTER TABLE attempt RENAME COLUMN words TO meaning")
    op.execute(f"UPDATE attempt SET meaning = {_coded('meaning')}")
    # Nothing moves, so nothing is counted.
    op.execute("ALTER TABLE delivery DISABLE TRIGGER USER")
    op.execute(f"UPDATE delivery SET trouble = {_coded('trouble')} WHERE trouble IS NOT NULL")
    op.execute("ALTER TABLE delivery ENABLE TRIGGER USER")
    domain, said = "split_part(about, ' ', 1)", "substr(about, strpos(about, ' ') + 1)"
    op.execute(
        f"UPDATE run_count SET about = {domain} || ' ' || {_coded(said)} WHERE state IN ('deferred', 'refused', 'unknown')"
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
