"""Another key for everything that is sealed: passwords of relays and live sources, and keys that sign."""

from dataclasses import dataclass

from sqlmodel import select

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.organisation.secrets import sealed_anew
from uvarovite.store.database import Database
from uvarovite.store.tables import LiveSource, Relay, SigningKeyRow


@dataclass(frozen=True, slots=True, kw_only=True)
class SealedAnew:
    """How many secrets are sealed with the key of now; `lost` names what neither key opens."""

    sealed: int
    lost: list[str]


@needs(Permission.SET_UP)
def seal_everything_anew(database: Database, actor: Actor, *, before: bytes, secret: bytes) -> SealedAnew:
    """Seal with `secret` what was sealed with `before`, all of it or nothing. Done twice, it changes nothing."""
    with database.transaction() as tx:
        found: list[tuple[Relay | LiveSource | SigningKeyRow, str, str]] = [
            (one, "sealed_password", f"the password of the relay “{one.name}”")
            for one in tx.exec(select(Relay).with_for_update()).all()
        ]
        found += [
            (one, "sealed_password", f"the password of the live source “{one.name}”")
            for one in tx.exec(select(LiveSource).with_for_update()).all()
        ]
        found += [
            (one, "sealed_private", f"the signing key {one.selector} of {one.domain}")
            for one in tx.exec(select(SigningKeyRow).with_for_update()).all()
        ]
        sealed, lost = 0, []
        for row, where, words in found:
            old = getattr(row, where)
            if old is None:
                continue
            anew = sealed_anew(old, before, secret)
            if anew is None:
                lost.append(words)
            else:
                setattr(row, where, anew)
                sealed += 1
        audit(tx, actor, Action.SEALED_ANEW, None, count=sealed)
    return SealedAnew(sealed=sealed, lost=lost)
