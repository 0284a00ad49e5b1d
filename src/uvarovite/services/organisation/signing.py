"""Signatures by which receiving systems know whose mail it is (DKIM): keys, their DNS records, and who signs what."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlmodel import col, select

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery.dkim import Algorithm, SigningKey, key_from_pem, key_to_pem, new_private_key
from uvarovite.core.delivery.troubles import relay_trouble
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.secrets import SecretLost, seal, unseal
from uvarovite.store import organisation as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import SigningKeyRow

MOST_KEYS = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class SigningKeyView:
    """A key as it is shown; its private half never is. It was found in the DNS last at `published_at`."""

    id: int
    domain: str
    selector: str
    algorithm: Algorithm
    record_name: str
    record: str
    made_at: datetime
    looked_up_at: datetime | None
    published_at: datetime | None
    signs: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SigningView:
    """The domains that messages come from, and the keys that there are."""

    domains: list[str]
    keys: list[SigningKeyView]


def _view(row: SigningKeyRow) -> SigningKeyView:
    return SigningKeyView(
        id=row.id or 0,
        domain=row.domain,
        selector=row.selector,
        algorithm=Algorithm(row.algorithm),
        record_name=f"{row.selector}._domainkey.{row.domain}",
        record=row.record,
        made_at=row.made_at,
        looked_up_at=row.looked_up_at,
        published_at=row.published_at,
        signs=row.signs,
    )


def domain_of(address: str) -> str:
    """The domain of an address as it stands in the DNS."""
    return wire_form(address).rpartition("@")[2].lower()


def _rows(tx: Transaction) -> list[SigningKeyRow]:
    return list(tx.exec(select(SigningKeyRow).order_by(col(SigningKeyRow.domain), col(SigningKeyRow.id))).all())


def _locked(tx: Transaction, key_id: int) -> SigningKeyRow:
    row = tx.exec(select(SigningKeyRow).where(col(SigningKeyRow.id) == key_id).with_for_update()).first()
    if row is None:
        raise NotFound("signing key")
    return row


@needs(Permission.SET_UP)
def signing_view(database: Database, actor: Actor) -> SigningView:
    """The keys, and the domains that have need of one."""
    with database.transaction() as tx:
        domains = sorted({domain_of(sender.address) for sender in store.senders(tx)})
        return SigningView(domains=domains, keys=[_view(row) for row in _rows(tx)])


@needs(Permission.SET_UP)
def make_key(
    database: Database, actor: Actor, *, domain: str, algorithm: Algorithm, secret: bytes, now: datetime
) -> SigningKeyView:
    """Make a key for a domain that messages come from; it signs nothing yet. Raises BadInput."""
    with database.transaction() as tx:
        if domain not in {domain_of(sender.address) for sender in store.senders(tx)}:
            raise BadInput("domain", "No sender has an address at that domain.", field="domain")
        rows = _rows(tx)
        if len(rows) >= MOST_KEYS:
            raise BadInput("many", f"There are {MOST_KEYS} keys already.")
        taken = {row.selector for row in rows if row.domain == domain}
        stem = f"{algorithm.value[0]}{now:%Y%m%d}"
        names = [stem, *(f"{stem}-{place}" for place in range(2, MOST_KEYS + 2))]
        selector = next(name for name in names if name not in taken)
        key = SigningKey(domain=domain, selector=selector, private=new_private_key(algorithm))
        row = SigningKeyRow(
            domain=domain,
            selector=selector,
            algorithm=algorithm.value,
            sealed_private=seal(key_to_pem(key.private), secret, given_for=key.record_name),
            record=key.record,
            made_at=now,
        )
        tx.add(row)
        tx.flush()
        audit(tx, actor, Action.SIGNING_KEY_MADE, row.id, name=key.record_name)
        return _view(row)


@needs(Permission.SET_UP)
def record_name(database: Database, actor: Actor, key_id: int) -> str:
    """Where a key's record is to be looked up. Raises NotFound."""
    with database.transaction() as tx:
        return _view(_locked(tx, key_id)).record_name


@needs(Permission.SET_UP)
def note_looked_up(
    database: Database, actor: Actor, key_id: int, texts: Sequence[str], *, secret: bytes, now: datetime
) -> SigningKeyView:
    """Note what the DNS answered for a key: is it published? Raises NotFound, SecretLost."""
    with database.transaction() as tx:
        row = _locked(tx, key_id)
        row.looked_up_at = now
        if _opened(row, secret).is_published_by(texts):
            row.published_at = now
        tx.add(row)
        tx.flush()
        return _view(row)


@needs(Permission.SET_UP)
def sign_with(database: Database, actor: Actor, key_id: int, *, signs: bool) -> SigningKeyView:
    """Sign what is released from now on with a key, or not any more. Raises NotFound; Conflict before it is published."""
    with database.transaction() as tx:
        row = _locked(tx, key_id)
        if signs and (row.published_at is None or row.published_at != row.looked_up_at):
            raise Conflict(
                "unpublished",
                "Its record is not in the DNS, so that every signature would count as forged. Look it up first.",
            )
        if row.signs != signs:
            row.signs = signs
            tx.add(row)
            tx.flush()
            action = Action.SIGNING_BEGAN if signs else Action.SIGNING_ENDED
            audit(tx, actor, action, row.id, name=_view(row).record_name)
        return _view(row)


def _opened(row: SigningKeyRow, secret: bytes) -> SigningKey:
    name = _view(row).record_name
    try:
        private = key_from_pem(unseal(row.sealed_private, secret, given_for=name))
    except SecretLost as fault:
        raise SecretLost(relay_trouble("signing_key", name=name)) from fault
    return SigningKey(domain=row.domain, selector=row.selector, private=private)


def signing_keys_for(tx: Transaction, address: str) -> list[int]:
    """The keys that sign what is released now from an address: those of exactly its domain."""
    return [row.id or 0 for row in _rows(tx) if row.signs and row.domain == domain_of(address)]


def open_keys(tx: Transaction, key_ids: Sequence[int], secret: bytes) -> tuple[SigningKey, ...]:
    """Some keys, in clear; they must not be logged. Raises SecretLost."""
    rows = {row.id: row for row in _rows(tx)}
    return tuple(_opened(rows[key_id], secret) for key_id in key_ids)


@dataclass(frozen=True, slots=True, kw_only=True)
class DomainAsk:
    """What is looked up of a domain that messages come from."""

    domain: str
    envelope_domain: str
    is_signed: bool


@needs(Permission.SET_UP)
def domain_ask(database: Database, actor: Actor, domain: str) -> DomainAsk:
    """What is to be looked up of a domain. Raises NotFound for one that no message comes from."""
    with database.transaction() as tx:
        if domain not in {domain_of(sender.address) for sender in store.senders(tx)}:
            raise NotFound("domain")
        # Where no relay has a domain for undeliverable mail, it comes back to the sender's own.
        envelope = next((relay.envelope_domain for relay in store.relays(tx) if relay.envelope_domain), domain)
        is_signed = any(row.signs and row.domain == domain for row in _rows(tx))
        return DomainAsk(domain=domain, envelope_domain=envelope, is_signed=is_signed)
