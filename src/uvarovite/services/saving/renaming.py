"""What is called otherwise from now on is named so in all saved criteria."""

from sqlmodel import select

from uvarovite.core.expressions import (
    NameKind,
    parse_criteria,
    print_criteria,
    renamed,
)
from uvarovite.core.language import LanguageError
from uvarovite.store.audiences import audiences as store
from uvarovite.store.database import Transaction
from uvarovite.store.tables import ContactView


def rename_in_criteria(tx: Transaction, kind: NameKind, old: str, new: str) -> None:
    """Let every audience's and view's criteria go on naming what is called otherwise from now on."""
    if old == new:
        return
    for view in tx.exec(select(ContactView)).all():
        try:
            view.criteria = print_criteria(renamed(parse_criteria(view.criteria), kind, old, new))
        except LanguageError:
            continue  # It says so itself when it is opened.
        tx.add(view)
    for audience in store.audiences(tx):
        node = audience.criteria
        changed = renamed(node, kind, old, new)
        if changed != node:
            audience.criteria = changed
            tx.add(audience)
