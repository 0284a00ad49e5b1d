"""JSON columns whose values have a form: the code on this side sees the value, the database the stored form."""

from typing import Any

from sqlalchemy import TypeDecorator
from sqlalchemy.dialects.postgresql import JSONB

from uvarovite.core.values import StoredForm


class FormType(TypeDecorator[Any]):
    """A value in its stored form (core.values.stored)."""

    impl = JSONB(none_as_null=True)
    cache_ok = True

    def __init__(self, form: StoredForm[Any]) -> None:
        super().__init__()
        self.form = form

    def process_bind_param(self, value: Any, dialect: Any) -> Any:
        """What is written."""
        return None if value is None else self.form.write(value)

    def process_result_value(self, value: Any, dialect: Any) -> Any:
        """What is read. Raises ValueError for what is no stored form."""
        return None if value is None else self.form.read(value)
