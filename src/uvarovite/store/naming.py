"""What people are called on screen, in SQL."""


def name_sql(contact: str) -> str:
    """The name of the contact with this alias; without one their address, else their number here. NULL where none is."""
    return (
        f"coalesce(nullif(concat_ws(' ', {contact}.first_name, {contact}.last_name), ''), {contact}.address, "
        f"'contact ' || {contact}.id)"
    )
