"""The clearance as one set-based query, made from the table of gates."""

from datetime import datetime

from uvarovite.core.audiences import GATES, ClearanceTerms, Gate, KeptRecord, Stage, gates_of
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.audiences.earlier_mail import already_sql, had_enough_sql, over_cap_sql
from uvarovite.store.audiences.gates import REASON_OF

# What decides between records that share an address: the greatest comes first, and among equals who was added first.
_KEPT_BY = {
    KeptRecord.FIRST_ADDED: "0",
    KeptRecord.LAST_CHANGED: "extract(epoch FROM contact.updated_at)",
    KeptRecord.FULLEST: (
        "num_nonnulls(contact.first_name, contact.last_name, contact.language, contact.contact_no) "
        "+ (SELECT count(*) FROM jsonb_object_keys(contact.own))"
    ),
}

# What a gate looks its people up in: the name that its SQL has for it, and how it is gathered.
_LOOKED_UP = {
    "own_limit": ("had_enough", had_enough_sql),
    "recent": ("over_cap", over_cap_sql),
    "again": ("already", already_sql),
}

# So many cleared people are more than it takes to go through the addresses of all contacts by their index.
MANY = 150_000


def joins_sql(person: str, *, contact_id: str, topic_id: str) -> str:
    """The joins that the gates read, for the alias `person` (which has `address_folded`) and two SQL expressions.

    Gates that are asked in the last moment read `contact.address_folded`: a delivery goes by that name there.
    """
    return f"""
        LEFT JOIN consent ON consent.contact_id = {contact_id} AND consent.topic_id = {topic_id}
        LEFT JOIN address_closing ON address_closing.address_folded = {person}.address_folded
            AND address_closing.topic_id = {topic_id}
        LEFT JOIN suppression ON suppression.address_folded = {person}.address_folded
            AND suppression.lifted_at IS NULL AND suppression.topic_id IS NULL
        LEFT JOIN suppression AS topic_suppression ON topic_suppression.address_folded = {person}.address_folded
            AND topic_suppression.lifted_at IS NULL AND topic_suppression.topic_id = {topic_id}
        LEFT JOIN suppression AS domain_suppression ON domain_suppression.lifted_at IS NULL
            AND domain_suppression.domain IS NOT NULL AND domain_suppression.domain = split_part({person}.address_folded, '@', 2)"""


def of_snapshot(now: datetime) -> SqlFragment:
    """The people of a frozen audience, as a condition over `contact`; `with_hand_picked` says of which."""
    text = "contact.id IN (SELECT contact_id FROM audience_snapshot WHERE audience_id = :audience_id)"
    return SqlFragment(text=text, parameters={"now": now})


def with_hand_picked(criteria: SqlFragment, audience_id: int | None, *, any_added: bool) -> SqlFragment:
    """Criteria with the people who were added to an audience by hand; who was left out is held by a gate.

    An audience that nobody was added to keeps its plain condition, which indexes can serve.
    """
    text = criteria.text
    if any_added:
        added = "SELECT contact_id FROM audience_member WHERE audience_id = :audience_id AND kind = 'added'"
        text = f"({text} OR contact.id IN ({added}))"
    return SqlFragment(text=text, parameters={**criteria.parameters, "audience_id": audience_id})


def clearance_sql(criteria: SqlFragment, terms: ClearanceTerms) -> SqlFragment:
    """CTEs that end in `judged(contact_id, held)`: one row for each matched contact; held is NULL when cleared.

    Held is the gate's key and the reason, as `consent:left`: one expression, whose first part that is not NULL ends it.
    `criteria` is a condition over `contact` that binds `:audience_id` (see with_hand_picked).

    What is asked of earlier mail and of shared addresses is looked up in hashes of those whom it concerns, never joined:
    how many people criteria match is a guess to the database, and a join that is chosen by a guess of five takes
    minutes for half a million. A clearance that `judge_for_release` has taken is read from its table.
    """
    if terms.is_taken:
        kept = "judged AS (SELECT contact_id, gate || ':' || reason AS held FROM judged_now)"
        return SqlFragment(text=kept, parameters={**criteria.parameters, **terms.parameters()})
    asked = [
        (gate, REASON_OF[gate.key](terms))
        for gate in gates_of(terms)
        if gate.key not in terms.lifted and gate.asks(terms)
    ]

    def held(gates: list[tuple[Gate, str]]) -> str:
        return ", ".join(f"'{gate.key}:' || ({sql})" for gate, sql in gates)

    late = [(gate, sql) for gate, sql in asked if gate.stage is not Stage.PERSON]
    ctes = [
        f"{_LOOKED_UP[gate.key][0]} AS MATERIALIZED ({_LOOKED_UP[gate.key][1](terms)})"
        for gate, _ in late
        if gate.key in _LOOKED_UP
    ]
    ctes.append(f"""looked AS MATERIALIZED (
        SELECT contact.id, contact.address_folded, {_KEPT_BY[terms.kept]} AS kept_by,
            coalesce({held([(gate, sql) for gate, sql in asked if gate.stage is Stage.PERSON])}) AS held
        FROM contact
        {joins_sql("contact", contact_id="contact.id", topic_id=":topic_id")}
        WHERE contact.deleted_at IS NULL AND {criteria.text}
    )""")
    if any(gate.stage is Stage.ADDRESS for gate, _ in late):
        # Only those who do share an address are put in order: they are few. Who they could be is asked of the clearance
        # itself, or, where it is large, of all contacts: their index has the addresses in order.
        ctes.append(f"""many AS MATERIALIZED (
        SELECT count(*) > {MANY} AS are_many FROM (SELECT FROM looked WHERE held IS NULL LIMIT {MANY + 1}) AS cleared
    )""")
        ctes.append("""shared_addresses AS MATERIALIZED (
        SELECT address_folded FROM looked WHERE held IS NULL AND NOT (SELECT are_many FROM many)
            GROUP BY 1 HAVING count(*) > 1
        UNION ALL
        SELECT address_folded FROM contact WHERE address_folded IS NOT NULL AND (SELECT are_many FROM many)
            GROUP BY 1 HAVING count(*) > 1
    )""")
        ctes.append("""shared AS MATERIALIZED (
        SELECT id FROM (
            SELECT id, row_number() OVER (PARTITION BY address_folded ORDER BY kept_by DESC, id) AS place
            FROM looked WHERE held IS NULL AND address_folded IN (SELECT address_folded FROM shared_addresses)) AS ranked
        WHERE place > 1
    )""")
    ctes.append(f"""judged AS (
        SELECT contact.id AS contact_id, {f"coalesce(contact.held, {held(late)})" if late else "contact.held"} AS held
        FROM looked AS contact
    )""")
    text = ",\n    ".join(ctes)
    return SqlFragment(text=text, parameters={**criteria.parameters, **terms.parameters()})


# What a held person's gate and reason are, over `held`.
GATE_SQL, REASON_SQL = "split_part(held, ':', 1)", "split_part(held, ':', 2)"


def live_reason_sql(terms: ClearanceTerms) -> tuple[str, str]:
    """(gate, reason): expressions over the same aliases for the gates that are asked again at the last moment."""
    live = [(gate, REASON_OF[gate.key](terms)) for gate in GATES if gate.live and gate.asks(terms)]
    gate = "CASE " + " ".join(f"WHEN ({sql}) IS NOT NULL THEN '{gate.key}'" for gate, sql in live) + " END"
    return gate, f"coalesce({', '.join(f'({sql})' for _, sql in live)})"
