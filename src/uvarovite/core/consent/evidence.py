"""What stands behind an entry of the ledger or of the suppression list."""

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from uvarovite.core.values import StoredForm, form_of


class ConsentEvidence(BaseModel):
    """What is known of how an entry came about; None is what does not apply.

    `wording` is what the person was told or said, `why` what somebody gave as a reason, `legal_basis` what the one who
    imported them stated. `file`, `import_id` and `row` name where it stood, `change_set` the bulk action, `delivery` the
    message whose link was used, by which `agent` (a program's name) and from which `origin` (a keyed hash). `answer` is
    what a relay said, `merged` the contacts or the entry that it was taken over from, `undone` the change set whose
    opposite it is.
    """

    # What an earlier version noted besides stays where it is stored: it is evidence, and not told.
    model_config = ConfigDict(frozen=True, extra="ignore", populate_by_name=True)

    # It was called the ground before.
    legal_basis: str | None = Field(default=None, validation_alias=AliasChoices("legal_basis", "ground"))
    wording: str | None = None
    why: str | None = None
    file: str | None = None
    page: str | None = None
    row: int | None = None
    import_id: int | None = Field(default=None, alias="import")
    change_set: int | None = None
    delivery: int | None = None
    agent: str | None = None
    origin: str | None = None
    answer: str | None = None
    merged: int | list[int] | None = None
    undone: int | None = None


NO_EVIDENCE = ConsentEvidence()
EVIDENCE_FORM: StoredForm[ConsentEvidence] = form_of(ConsentEvidence, sparse=True)
