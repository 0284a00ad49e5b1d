"""Lists of addresses that tests go to."""

from sqlmodel import col, select

from uvarovite.store.database import Transaction
from uvarovite.store.tables import TestList


def all_lists(tx: Transaction) -> list[TestList]:
    """All of them by name."""
    return list(tx.exec(select(TestList).order_by(col(TestList.name))))


def list_called(tx: Transaction, name: str) -> TestList | None:
    """The list with a name, which nobody else changes before this transaction ends."""
    return tx.exec(select(TestList).where(col(TestList.name) == name).with_for_update()).first()
