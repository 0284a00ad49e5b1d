"""the database refuses a step that a table of states does not have

A test holds the steps here to the tables of the core. Going back is not provided for.
"""

from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

STEPS = {
    "delivery": (
        "claimed held", "claimed sending", "claimed stopped", "claimed waiting", "deferred claimed", "deferred held",
        "deferred stopped", "sending accepted", "sending deferred", "sending refused", "sending unknown",
        "waiting claimed", "waiting held", "waiting stopped",
    ),
    "batch": ("claimed done", "claimed waiting", "waiting claimed"),
    "run": ("going ended", "going paused", "going stopped", "paused going", "paused stopped"),
    "import_file": (
        "failed reading", "looked failed", "looked reading", "looked writing", "reading failed", "reading looked",
        "writing failed", "writing looked", "writing written", "written undone",
    ),
}  # fmt: skip

REFUSE = """
CREATE FUNCTION refuse_step() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '%: % does not become %', TG_TABLE_NAME, OLD.state, NEW.state USING ERRCODE = 'check_violation';
END $$;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(REFUSE)
    for table, steps in STEPS.items():
        # The condition is looked at in place; the function is called for a step that there is not.
        allowed = ", ".join(f"'{step}'" for step in steps)
        op.execute(
            f"""CREATE TRIGGER {table}_step BEFORE UPDATE OF state ON {table} FOR EACH ROW
                WHEN (OLD.state <> NEW.state AND OLD.state || ' ' || NEW.state NOT IN ({allowed}))
                EXECUTE FUNCTION refuse_step()"""
        )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
