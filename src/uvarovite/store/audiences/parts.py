"""A part of an audience as a condition in SQL."""

from uvarovite.core.audiences import Places, Share
from uvarovite.core.contacts import Field as ContactField
from uvarovite.core.contacts import FieldType
from uvarovite.core.expressions import SqlFragment


def part_sql(people: SqlFragment, part: Places | Share, field: ContactField | None, *, prefix: str) -> SqlFragment:
    """The part of the contacts for which `people` holds, as a condition over `contact`. `field` is the one to spread over.

    `prefix` begins the names of what is bound.
    """
    bound = {**people.parameters, f"{prefix}seed": str(part.seed)}
    drawn = f"md5(:{prefix}seed || ':' || contact.id)"
    value = "''" if field is None else f"coalesce({_value(field)}, '')"
    if isinstance(part, Share):
        bound |= {f"{prefix}from": part.from_percent / 100, f"{prefix}to": part.to_percent / 100}
        if field is None:
            inner = f"{_fraction(drawn)} AS place"
        else:
            # Each value's people stand evenly between 0 and 1, from a beginning that is drawn for the value.
            begin = _fraction(f"md5(:{prefix}seed || '/' || {value})")
            inner = (
                f"(row_number() OVER (PARTITION BY {value} ORDER BY {drawn}, contact.id) - 1 + {begin}) "
                f"/ count(*) OVER (PARTITION BY {value}) AS place"
            )
        within = f"place >= :{prefix}from AND place < :{prefix}to"
        placed = f"SELECT contact.id, {inner} FROM contact WHERE contact.deleted_at IS NULL AND {people.text}"
    else:
        bound |= {f"{prefix}first": part.first, f"{prefix}last": part.last}
        order = {"oldest": "contact.id", "latest": "contact.id DESC", "random": f"{drawn}, contact.id"}[part.order]
        turn = "1" if field is None else f"row_number() OVER (PARTITION BY {value} ORDER BY {order})"
        within = f"place BETWEEN :{prefix}first AND :{prefix}last"
        placed = f"""SELECT contact.id, row_number() OVER (ORDER BY contact.turn, {order}) AS place FROM (
            SELECT contact.id, {turn} AS turn FROM contact WHERE contact.deleted_at IS NULL AND {people.text}) AS contact"""
    return SqlFragment(text=f"contact.id IN (SELECT id FROM ({placed}) AS placed WHERE {within})", parameters=bound)


def _fraction(digest: str) -> str:
    """A number from 0 up to, not including, 1 from a digest in hexadecimal."""
    return f"(CAST(CAST('x' || substr({digest}, 1, 8) AS bit(32)) AS bigint) / 4294967296.0)"


def _value(field: ContactField) -> str:
    if field.standard:
        return f"contact.{field.key}"
    texts = field.type in (FieldType.TEXT, FieldType.CHOICE)
    return f"contact.folded->>'{field.key}'" if texts else f"contact.own->>'{field.key}'"
