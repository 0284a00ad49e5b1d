"""The clearance: the number on screen, the people behind a gate and the release are one code."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import GATES, Again, Caps, ClearanceTerms, KeptRecord, Needed, gates_of
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import Clock, Condition, SqlFragment
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import OwnFiles, own_name
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences import audiences as store
from uvarovite.store.campaigns.campaigns import runs_lately
from uvarovite.store.consent.own_limits import any_limits
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions.conditions import condition_sql
from uvarovite.store.messages import latest_version
from uvarovite.store.tables import Campaign, Topic

NAMES_SHOWN = 3


def terms_for(
    tx: Transaction,
    *,
    topic_id: int | None,
    now: datetime,
    campaign: Campaign | None = None,
    content: MessageContent | None = None,
) -> ClearanceTerms:
    """What is asked of people: for a topic, of a campaign if it is for one, and of what its message cannot do without."""
    organisation = require_organisation(tx)
    topic = tx.get(Topic, topic_id) if topic_id is not None else None
    caps = Caps(
        week=organisation.week_cap,
        month=organisation.month_cap,
        topic_week=topic.week_cap if topic else None,
        topic_month=topic.month_cap if topic else None,
    )
    needed = _needed(content, load_fields(tx), organisation.time_zone, now) if content else ()
    terms = ClearanceTerms(
        now=now,
        topic_id=topic_id,
        double_opt_in=topic is not None and topic.double_opt_in,
        caps=caps,
        kept=KeptRecord(organisation.kept_record),
        needed=needed,
        lately=runs_lately(tx, now),
        own_limits=any_limits(tx),
    )
    if campaign is None:
        return terms
    return replace(
        terms,
        campaign_id=campaign.id,
        message_id=campaign.message_id,
        again=Again(campaign.again),
        lifted=frozenset(campaign.lifted),
    )


def _needed(content: MessageContent, fields: FieldMap, time_zone: str, now: datetime) -> tuple[Needed, ...]:
    clock = Clock.at(now, time_zone)
    return tuple(
        Needed(
            key=key,
            label=fields[key].label,
            blank=condition_sql(Condition(field=key, operator="blank"), fields, clock, prefix=f"needed{place}_"),
        )
        for place, key in enumerate(content.needed)
        # A field that was removed since is a fault of the message, which says so itself.
        if key in fields
    ) + tuple(
        Needed(key=f"file_{place}", label=f"file for “{one.name}”", blank=lacks)
        for place, one in enumerate(content.attachments)
        if isinstance(one, OwnFiles)
        and one.needed
        and (lacks := lacks_own_file(content, one, fields, prefix=f"needed_file{place}_")) is not None
    )


def lacks_own_file(content: MessageContent, files: OwnFiles, fields: FieldMap, *, prefix: str) -> SqlFragment | None:
    """The condition over `contact` that there is no file for somebody who reads the words with which they go.

    None where the name says none, which is a problem.
    """
    name = own_name(files.name, fields)
    if name is None:
        return None
    standard = fields[name.field].standard
    lacks = store.lacks_file_sql(name, list(files.by_name()), standard=standard, prefix=prefix)
    reads = store.reads_sql(content.readers_of(files), [other.language for other in content.others])
    return replace(lacks, text=f"({lacks.text}) AND {reads}")


def terms_of_ask(
    tx: Transaction, topic_id: int | None, campaign_id: int | None, now: datetime, *, on_paper: bool = False
) -> ClearanceTerms:
    """The terms of what is looked at on screen. Raises NotFound for a campaign that is gone."""
    if campaign_id is None:
        return replace(terms_for(tx, topic_id=topic_id, now=now), on_paper=on_paper)
    campaign = tx.get(Campaign, campaign_id)
    if campaign is None:
        raise NotFound("campaign")
    version = latest_version(tx, campaign.message_id) if campaign.message_id else None
    content = version.content if version else None
    terms = terms_for(tx, topic_id=topic_id, now=now, campaign=campaign, content=content)
    return replace(terms, on_paper=on_paper)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReasonView:
    """Why a gate holds some people, and how many; `names` are some of them."""

    key: str
    words: str
    held: int
    names: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class GateView:
    """One gate: how many it holds, and how many are left behind it. A `lifted` one holds nobody.

    `mended_in` names the place where the cause can be mended.
    """

    key: str
    label: str
    mend: str
    mended_in: str
    held: int
    left: int
    may_be_lifted: bool
    lifted: bool
    reasons: list[ReasonView]


@dataclass(frozen=True, slots=True, kw_only=True)
class ClearanceView:
    """matched = sum of held + cleared, at any moment."""

    matched: int
    cleared: int
    gates: list[GateView]
    taken_at: datetime


def gate_views(
    counts: Mapping[tuple[str | None, str | None], int],
    names: Mapping[tuple[str, str], list[str]],
    terms: ClearanceTerms,
) -> tuple[int, int, list[GateView]]:
    """(matched, cleared, gates) from the counts by (gate, reason); a gate that the terms do not ask is left away."""
    matched = left = sum(counts.values())
    gates = []
    for gate in gates_of(terms):
        if not gate.asks(terms):
            continue
        order = list(gate.reasons)
        found = [reason for key, reason in counts if key == gate.key and reason is not None]
        found.sort(key=lambda reason: order.index(reason) if reason in order else len(order))
        reasons = [
            ReasonView(
                key=reason,
                words=gate.words(reason, terms),
                held=counts[gate.key, reason],
                names=names.get((gate.key, reason), []),
            )
            for reason in found
        ]
        held = sum(reason.held for reason in reasons)
        left -= held
        gates.append(
            GateView(
                key=gate.key,
                label=gate.label,
                mend=gate.mend,
                mended_in=gate.mended_in,
                held=held,
                left=left,
                may_be_lifted=gate.may_be_lifted,
                lifted=gate.key in terms.lifted,
                reasons=reasons,
            )
        )
    return matched, left, gates


@needs(Permission.LOOK)
def clearance(
    database: Database,
    actor: Actor,
    *,
    text: str,
    audience_id: int | None = None,
    topic_id: int | None,
    campaign_id: int | None = None,
    on_paper: bool = False,
    now: datetime,
) -> ClearanceView:
    """The clearance of criteria, and of an audience's hand-picked, for a topic or a campaign; `on_paper` that of letters.

    Raises BadInput, NotFound.
    """
    with database.transaction() as tx:
        terms = terms_of_ask(tx, topic_id, campaign_id, now, on_paper=on_paper)
        return take_clearance(tx, audience_sql(tx, text, audience_id, now), terms)


def take_clearance(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms) -> ClearanceView:
    """The clearance within a transaction, with some names behind each reason."""
    rows = store.clearance_counts(tx, criteria, terms)
    counts: dict[tuple[str | None, str | None], int] = {}
    examples: dict[tuple[str, str], list[int]] = {}
    for row in rows:
        counts[row.gate, row.reason] = counts.get((row.gate, row.reason), 0) + row.n
        if row.gate is not None:
            examples.setdefault((row.gate, row.reason), []).append(row.example)
    called = store.names_of(tx, [one for ids in examples.values() for one in ids])
    names = {key: [called[one] for one in sorted(ids)[:NAMES_SHOWN]] for key, ids in examples.items()}
    matched, cleared, gates = gate_views(counts, names, terms)
    return ClearanceView(matched=matched, cleared=cleared, gates=gates, taken_at=terms.now)


def require_liftable(gate: str) -> None:
    """Raises BadInput unless a gate may be lifted."""
    if not any(row.key == gate and row.may_be_lifted for row in GATES):
        raise BadInput("gate", "This gate stands for what people agreed to, or for what is possible at all.")


@needs(Permission.LOOK)
def cleared_without(
    database: Database,
    actor: Actor,
    *,
    text: str,
    audience_id: int | None = None,
    topic_id: int | None,
    campaign_id: int | None = None,
    gate: str,
    now: datetime,
) -> int:
    """How many would be cleared if a gate were lifted. Raises BadInput for criteria, or a gate that may not be."""
    require_liftable(gate)
    with database.transaction() as tx:
        terms = terms_of_ask(tx, topic_id, campaign_id, now)
        lifted = replace(terms, lifted=terms.lifted | {gate})
        return store.count_cleared(tx, audience_sql(tx, text, audience_id, now), lifted)


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedPerson:
    """A person behind a gate, or cleared, and the file that they came with."""

    id: int
    name: str
    address: str | None
    reason: str | None
    import_id: int | None
    file: str | None


@needs(Permission.LOOK)
def people_behind(
    database: Database,
    actor: Actor,
    *,
    text: str,
    audience_id: int | None = None,
    topic_id: int | None,
    campaign_id: int | None = None,
    on_paper: bool = False,
    gate: str | None,
    after_id: int,
    now: datetime,
    limit: int = 100,
) -> list[JudgedPerson]:
    """The people whom a gate holds, or who are cleared (gate None), by id. Raises BadInput, NotFound."""
    with database.transaction() as tx:
        terms = terms_of_ask(tx, topic_id, campaign_id, now, on_paper=on_paper)
        known = {row.key: row for row in gates_of(terms)}
        if gate is not None and gate not in known:
            raise BadInput("gate", "There is no such gate.")
        sql = audience_sql(tx, text, audience_id, now)
        rows = store.judged_people(tx, sql, terms, gate=gate, after_id=after_id, limit=min(limit, 500))
        return [
            JudgedPerson(
                id=row.id,
                name=row.name,
                address=row.address,
                reason=known[gate].words(row.reason, terms) if gate else None,
                import_id=row.import_id,
                file=row.file,
            )
            for row in rows
        ]
