"""What the clearance gave when a run was released."""

from pydantic import BaseModel, ConfigDict

from uvarovite.core.values import StoredForm, form_of


class HeldAtGate(BaseModel):
    """How many a gate (by its key) held."""

    # The first runs kept its label besides; a gate's label is said by the gate.
    model_config = ConfigDict(frozen=True, extra="ignore")

    key: str
    held: int


class ReleasedClearance(BaseModel):
    """How many matched and were cleared, what each gate held in their order, and which gates were lifted."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    matched: int
    cleared: int
    gates: list[HeldAtGate]
    lifted: list[str] = []


CLEARANCE_FORM: StoredForm[ReleasedClearance] = form_of(ReleasedClearance)
