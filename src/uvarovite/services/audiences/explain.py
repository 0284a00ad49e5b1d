"""Why does somebody get it, or not? Each condition with the person's own value, then the gates, in words."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import GATES, ClearanceTerms
from uvarovite.core.consent import REASON_WORDS, SuppressionReason
from uvarovite.core.contacts import Record, value_to_text
from uvarovite.core.expressions import (
    All,
    AnyOf,
    Condition,
    Items,
    Node,
    Not,
    SqlFragment,
    print_criteria,
)
from uvarovite.core.values import AddressFault, read_address
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_of_ask
from uvarovite.services.consent.closings import closed_words
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.errors import BadInput
from uvarovite.services.expressions.criteria import Vocabulary, criteria_vocabulary, read_node
from uvarovite.store.audiences import audiences as store
from uvarovite.store.audiences.clearance import with_hand_picked
from uvarovite.store.consent.suppressions import erased_hashes, suppressions_of
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions import names as criteria_store
from uvarovite.store.expressions.conditions import condition_sql
from uvarovite.store.tables import Audience, MemberKind

# An address is shared by a family, not by a village.
MOST_PEOPLE = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class ConditionAnswer:
    """A condition (as text) and whether it holds; `value` is the person's own, where it asks for a field's."""

    condition: str
    holds: bool
    value: str | None
    depth: int


@dataclass(frozen=True, slots=True, kw_only=True)
class GateAnswer:
    """A gate and what it did: passed, held (with the reason in words), lifted, or not_reached behind one that held."""

    key: str
    label: str
    outcome: str
    reason: str | None
    mend: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """One person's way: `picked` is added or left_out where a hand decided. The gates are asked of those who do not match
    as well: they would be held besides.
    """

    id: int
    name: str
    address: str
    matched: bool
    picked: str | None
    conditions: list[ConditionAnswer]
    gates: list[GateAnswer]
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ExplainedAddress:
    """Everybody who has an address, and what is known of the address itself, in sentences."""

    people: list[Explanation]
    words: list[str]


@needs(Permission.LOOK)
def explain(
    database: Database,
    actor: Actor,
    *,
    text: str,
    address: str,
    audience_id: int | None = None,
    topic_id: int | None,
    campaign_id: int | None = None,
    hasher: Hash,
    now: datetime,
) -> ExplainedAddress:
    """The way of everybody with an address, and whether anything closes it, known or not. Raises BadInput, NotFound."""
    read = read_address(address)
    if isinstance(read, AddressFault):
        raise BadInput(read.code, read.message)
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        node = read_node(text, known)
        sql = audience_sql(tx, text, audience_id, now)
        terms = terms_of_ask(tx, topic_id, campaign_id, now)
        people = criteria_store.people_at(tx, read.folded, MOST_PEOPLE)
        return ExplainedAddress(
            people=[_why(tx, person, node, known, sql, audience_id, terms) for person in people],
            words=_address_words(tx, read.folded, topic_id, hasher, somebody=bool(people)),
        )


def _address_words(tx: Transaction, address: str, topic_id: int | None, hasher: Hash, *, somebody: bool) -> list[str]:
    told = [] if somebody else ["Nobody among the contacts has this address."]
    told += [
        (f"The domain {row.domain} is" if row.domain else "The address is")
        + " on the suppression list"
        + (f" for {row.topic}" if row.topic else "")
        + f": {REASON_WORDS[SuppressionReason(row.reason)]}."
        for row in suppressions_of(tx, address)
    ]
    if hasher(address) in erased_hashes(tx):
        told.append("The owner of this address asked to be forgotten. It gets nothing.")
    if not somebody and (whose := closed_words(tx, address, topic_id, "left_address")):
        told.append(f"The topic was left from this address: {whose}.")
    return told


def _why(
    tx: Transaction,
    contact_id: int,
    node: Node,
    known: Vocabulary,
    sql: SqlFragment,
    audience_id: int | None,
    terms: ClearanceTerms,
) -> Explanation:
    contact = contact_store.get_contact(tx, contact_id)
    assert contact is not None
    record = contact_store.record_of(contact, load_fields(tx))
    leaves = _leaves(node, 0)
    holds = criteria_store.truths(
        tx,
        contact_id,
        [
            condition_sql(leaf, known.fields, known.clock, known.names, prefix=f"l{place}_")
            for place, (leaf, _) in enumerate(leaves)
        ],
    )
    conditions = [
        ConditionAnswer(condition=print_criteria(leaf), holds=truth, value=_own_value(leaf, record, known), depth=depth)
        for (leaf, depth), truth in zip(leaves, holds, strict=True)
    ]
    judged = store.judged_one(tx, sql, terms, contact_id)
    picked = criteria_store.picked(tx, audience_id, contact_id) if audience_id is not None else None
    name = " ".join(filter(None, [contact.first_name, contact.last_name])) or (contact.address or "")
    gated = judged
    if gated is None:
        alone = SqlFragment(text="contact.id = :explained_id", parameters={"explained_id": contact_id})
        gated = store.judged_one(tx, with_hand_picked(alone, audience_id, any_added=False), terms, contact_id)
    assert gated is not None
    whose = closed_words(tx, contact.address_folded, terms.topic_id, gated.reason or "")
    gates = _gates(gated.gate, gated.reason, terms, whose)
    return Explanation(
        id=contact_id,
        name=name,
        address=contact.address or "",
        matched=judged is not None,
        picked=picked,
        conditions=conditions,
        gates=gates,
        words=_words(
            name,
            _failing(node, iter(conditions)),
            gates,
            picked,
            _narrowed(tx, audience_id),
            matched=judged is not None,
        ),
    )


def _leaves(node: Node, depth: int) -> list[tuple[Node, int]]:
    """What is answered one by one, with its depth: the conditions of groups, and what is denied as a whole."""
    match node:
        case All(children=children) | AnyOf(children=children):
            within = depth + 1 if depth or isinstance(node, AnyOf) else depth
            return [found for child in children for found in _leaves(child, within)]
        case _:
            return [(node, depth)]


def _failing(node: Node, answers: Iterator[ConditionAnswer]) -> list[ConditionAnswer]:
    """The conditions because of which a tree does not hold, read along with its leaves; none when it holds."""
    match node:
        case All(children=children):
            return [found for child in children for found in _failing(child, answers)]
        case AnyOf(children=children):
            failing = [_failing(child, answers) for child in children]
            return [] if any(not one for one in failing) else [found for one in failing for found in one]
        case _:
            answer = next(answers)
            return [] if answer.holds else [answer]


def _own_value(leaf: Node, record: Record, known: Vocabulary) -> str | None:
    asked = leaf.child if isinstance(leaf, Not) else leaf
    if not isinstance(asked, Condition | Items) or asked.field not in record:
        return None
    return value_to_text(record[asked.field], known.fields[asked.field]) or "blank"


def _gates(held: str | None, reason: str | None, terms: ClearanceTerms, whose: str | None) -> list[GateAnswer]:
    answers = []
    reached = True
    for gate in GATES:
        if not gate.asks(terms):
            continue
        lifted = gate.key in terms.lifted
        outcome = "held" if gate.key == held else "lifted" if lifted else "passed" if reached else "not_reached"
        reached = reached and gate.key != held
        answers.append(
            GateAnswer(
                key=gate.key,
                label=gate.label,
                outcome=outcome,
                reason=": ".join(filter(None, [gate.words(reason or "", terms), whose])) if outcome == "held" else None,
                mend=gate.mend if outcome == "held" else None,
            )
        )
    return answers


def _narrowed(tx: Transaction, audience_id: int | None) -> str:
    """Why somebody may match an audience's conditions and not be in it."""
    audience = tx.get(Audience, audience_id) if audience_id is not None else None
    told = []
    if audience is not None and audience.frozen_at is not None:
        told.append("was not there when the audience was frozen")
    if audience is not None and audience.part is not None:
        told.append("is not in the part of them that the audience consists of")
    return " or ".join(told)


def _words(
    name: str,
    failed: list[ConditionAnswer],
    gates: list[GateAnswer],
    picked: str | None,
    narrowed: str,
    *,
    matched: bool,
) -> str:
    held = next((gate for gate in gates if gate.outcome == "held"), None)
    if not matched:
        besides = f" They would be held besides: {held.reason}." if held is not None else ""
        if not failed:
            return f"{name} matches the conditions, and {narrowed}.{besides}"
        told = "; ".join(one.condition + (f" (theirs: {one.value})" if one.value is not None else "") for one in failed)
        return f"{name} does not match: {told}.{besides}"
    by_hand = " by hand" if picked == MemberKind.ADDED else ""
    if held is not None:
        return f"{name} matches{by_hand}, and is held: {held.reason}."
    return f"{name} matches{by_hand}, and is cleared."
