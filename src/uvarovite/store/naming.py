"""What people are called on screen, and how names of files are compared, in SQL."""

from uvarovite.core.messages.attachments.own_files import LOWER, UPPER


def name_sql(contact: str) -> str:
    """The name of the contact with this alias; without one their address, else their number here. NULL where none is."""
    return (
        f"coalesce(nullif(concat_ws(' ', {contact}.first_name, {contact}.last_name), ''), {contact}.address, "
        f"'contact ' || {contact}.id)"
    )


def fold_file_name_sql(name: str) -> str:
    """A file's name as core.messages.attachments.fold_name compares it; `name` is an SQL expression."""
    return f"translate(btrim({name}), '{UPPER}', '{LOWER}')"
