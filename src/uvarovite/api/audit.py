"""The audit log."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, MayAudit
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import AREA_LABELS, AuditArea
from uvarovite.services.accounts import audit
from uvarovite.services.accounts.audit import AuditPage

router = APIRouter(prefix="/api/audit", tags=["audit log"])


@dataclass(frozen=True, slots=True, kw_only=True)
class AreaLine:
    """A part of the work."""

    area: AuditArea
    label: str


@router.get("/areas")
def areas(actor: MayAudit) -> list[AreaLine]:
    """The parts of the work that entries belong to."""
    return [AreaLine(area=area, label=label) for area, label in AREA_LABELS.items()]


@router.get("")
def audit_page(
    actor: MayAudit,
    context: Context,
    search: Annotated[str, Query(max_length=200)] = "",
    area: AuditArea | None = None,
    user_id: Id | None = None,
    since: date | None = None,
    until: date | None = None,
    before: Id | None = None,
) -> AuditPage:
    """What was done, latest first: 50 entries from before `before`. Days are the organisation's, both included."""
    return audit.audit_page(
        context.database,
        actor,
        search=search,
        area=area,
        user_id=user_id,
        since=since,
        until=until,
        before=before,
    )
