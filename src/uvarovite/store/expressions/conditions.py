"""Criteria as one condition over `contact`, with what they ask of other tables."""

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.verification import VERIFICATION, Verdict
from uvarovite.core.expressions import NO_NAMES, Clock, Names, Node, SqlFragment, TableSql, criteria_to_sql
from uvarovite.store.expressions.about import about_sql, audience_sql, snapshot_sql

_TABLES = TableSql(
    about=about_sql,
    in_audience=audience_sql,
    in_snapshot=snapshot_sql,
    kept_elsewhere={
        # The verdicts of all domains are gathered once for a statement, and looked up for each person.
        VERIFICATION.key: (
            "(CASE WHEN {contact}.address_folded IS NOT NULL THEN "
            "coalesce((SELECT jsonb_object_agg(domain, verdict) FROM domain_check) "
            f"->> split_part({{contact}}.address_folded, '@', 2), '{Verdict.UNCHECKED}') END)"
        )
    },
)


def condition_sql(
    node: Node,
    fields: FieldMap,
    clock: Clock,
    names: Names = NO_NAMES,
    *,
    contact: str = "contact",
    prefix: str = "c",
) -> SqlFragment:
    """The condition of a tree that was checked; see core.expressions.criteria_to_sql."""
    return criteria_to_sql(node, fields, clock, names, tables=_TABLES, contact=contact, prefix=prefix)
