"""What criteria ask about more than the record, in SQL: consent, what was sent and done, files, tags, other audiences.

Each is a set of contacts that is gathered once for a statement, however many contacts are asked about: `IN (SELECT …)`.
Where it stands alone or beside `and`, the database joins it. Behind `not` and beside `or` it cannot, and keeps a hash of
it: there it is DISTINCT, so that no more is expected of it than there are contacts. A set that is believed to be too
large for a hash would be gone through for each contact anew.
"""

import hashlib

from uvarovite.core.consent import closed_sql, was_subscribed_sql
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.expressions import (
    About,
    Binder,
    ChosenBySql,
    Clock,
    DateLiteral,
    History,
    Imported,
    InAudience,
    Names,
    PeriodLiteral,
    Subscribed,
    Tagged,
    TodayLiteral,
    day_of,
    period_ends,
)
from uvarovite.core.values import fold


def about_sql(node: About, contact: str, clock: Clock, names: Names, binder: Binder, *, joined: bool) -> str:
    """See core.expressions.AboutSql."""
    match node:
        case Subscribed(topic=topic, as_of=DateLiteral() | TodayLiteral() as as_of):
            people = _were_subscribed(names.topics[fold(topic)].id, as_of, clock, binder)
        case Subscribed(topic=topic, since=since):
            people = _subscribers(names.topics[fold(topic)].id, since, clock, binder)
        case Tagged(tag=tag):
            people = (
                f"SELECT contact_id FROM contact_tag WHERE tag_id = {binder.bind(names.tags[fold(tag)].id, 'bigint')}"
            )
        case Imported(file=file):
            # A folded name may be that of several files; the name as it was found is what they share. Whoever got
            # anything from a file, be it a tag or a consent alone, stands in its change set.
            named = binder.bind(names.files[fold(file)], "text")
            return (
                f"({contact}.import_id IN (SELECT id FROM import_file WHERE filename = {named}) OR {contact}.id IN ("
                "SELECT DISTINCT contact_id FROM contact_change JOIN import_file USING (change_set_id) "
                f"WHERE filename = {named} AND state = '{ImportState.WRITTEN}'))"
            )
        case ChosenBySql(sql=sql):
            people = f"SELECT contact_id FROM {chosen_table(sql)}"
        case History():
            happened = _happened(node, clock, names, binder, "" if joined else "DISTINCT ")
            if node.never and joined:
                return f"NOT EXISTS (SELECT FROM ({happened}) AS happened WHERE happened.contact_id = {contact}.id)"
            within = f"{contact}.id IN ({happened})"
            return f"NOT {within}" if node.never else within
        case InAudience():
            raise AssertionError("another audience is its own conditions, which to_sql makes")
    return f"{contact}.id IN ({people})"


def chosen_table(sql: str) -> str:
    """The temporary table that holds whom a SELECT by hand chose, for as long as the transaction lasts."""
    return f"pg_temp.chosen_{hashlib.blake2b(sql.encode(), digest_size=12).hexdigest()}"


def audience_sql(criteria: str, audience_id: int, contact: str, binder: Binder) -> str:
    """In an audience whose conditions are `criteria`: they hold or one was added, and one was not left out."""
    place = binder.bind(audience_id, "bigint")

    def picked(kind: str) -> str:
        members = f"SELECT contact_id FROM audience_member WHERE audience_id = {place} AND kind = '{kind}'"
        return f"{contact}.id IN ({members})"

    return f"(({criteria} OR {picked('added')}) AND NOT {picked('left_out')})"


def snapshot_sql(audience_id: int, contact: str, binder: Binder) -> str:
    """Among the people of a frozen audience."""
    place = binder.bind(audience_id, "bigint")
    return f"{contact}.id IN (SELECT contact_id FROM audience_snapshot WHERE audience_id = {place})"


def _subscribers(topic_id: int, since: DateLiteral | TodayLiteral | None, clock: Clock, binder: Binder) -> str:
    """Who gets mail about a topic as far as consent goes: subscribed, and nobody closed their address for it."""
    topic = binder.bind(topic_id, "bigint")
    closed = (
        "SELECT contact.id FROM address_closing JOIN contact ON contact.address_folded = address_closing.address_folded "
        f"JOIN consent AS own ON own.contact_id = contact.id AND own.topic_id = {topic} "
        f"WHERE address_closing.topic_id = {topic} AND {closed_sql('left', 'address_closing', 'own.since')}"
    )
    people = (
        f"SELECT contact_id FROM consent WHERE topic_id = {topic} AND state = 'subscribed' "
        f"AND contact_id NOT IN ({closed})"
    )
    if since is None:
        return people
    day = day_of(since, clock) if isinstance(since, TodayLiteral) else since.day
    zone = binder.bind(str(clock.now.tzinfo), "text")
    return f"{people} AND CAST(since AT TIME ZONE {zone} AS date) <= {binder.bind(day, 'date')}"


def _were_subscribed(topic_id: int, as_of: DateLiteral | TodayLiteral, clock: Clock, binder: Binder) -> str:
    """Whose events of a topic had made them a subscriber by the end of a day."""
    day = day_of(as_of, clock) if isinstance(as_of, TodayLiteral) else as_of.day
    zone = binder.bind(str(clock.now.tzinfo), "text")
    return (
        f"SELECT contact_id FROM consent_event WHERE topic_id = {binder.bind(topic_id, 'bigint')} "
        f"AND at < CAST({binder.bind(day, 'date')} + 1 AS timestamp) AT TIME ZONE {zone} "
        f"GROUP BY contact_id HAVING {was_subscribed_sql('id', 'kind')}"
    )


def _happened(node: History, clock: Clock, names: Names, binder: Binder, distinct: str) -> str:
    """Whom it happened to, by contact id."""
    if node.event == "received":
        parts = [_received(node, clock, names, binder, distinct)]
    elif node.event == "bounced":
        # Refused by the relay at once, or reported back later.
        parts = [
            _refused(node, clock, names, binder, distinct),
            _responses("'bounced'", node, clock, names, binder, distinct),
        ]
    else:
        parts = [_responses(f"'{node.event}'", node, clock, names, binder, distinct)]
    return (" UNION " if distinct else " UNION ALL ").join(parts)


def _received(node: History, clock: Clock, names: Names, binder: Binder, distinct: str) -> str:
    sql = f"SELECT {distinct}sent_mail.contact_id FROM sent_mail WHERE sent_mail.accepted"
    return sql + _when("sent_mail.at", node.within, clock, binder) + _of("sent_mail", node, names, binder)


def _refused(node: History, clock: Clock, names: Names, binder: Binder, distinct: str) -> str:
    sql = f"SELECT {distinct}delivery.contact_id FROM delivery WHERE delivery.state = '{DeliveryState.REFUSED}'"
    return sql + _when("delivery.settled_at", node.within, clock, binder) + _of("delivery", node, names, binder)


def _responses(kind: str, node: History, clock: Clock, names: Names, binder: Binder, distinct: str) -> str:
    sql = (
        f"SELECT {distinct}response_event.contact_id FROM response_event "
        f"WHERE response_event.kind = {kind} AND response_event.machine_rule IS NULL"
    )
    return sql + _when("response_event.at", node.within, clock, binder) + _of("response_event", node, names, binder)


def _of(table: str, node: History, names: Names, binder: Binder) -> str:
    if node.campaign is None:
        return ""
    campaign = binder.bind(names.campaigns[fold(node.campaign)].id, "bigint")
    return f" AND {table}.run_id IN (SELECT id FROM run WHERE campaign_id = {campaign})"


def _when(column: str, within: PeriodLiteral | None, clock: Clock, binder: Binder) -> str:
    if within is None:
        return ""
    first, _ = period_ends(within, clock, forward=False)
    zone = binder.bind(str(clock.now.tzinfo), "text")
    # From the beginning of that day on, so that an index on the instants serves.
    begin = f"CAST({binder.bind(first, 'date')} AS timestamp) AT TIME ZONE {zone}"
    return f" AND {column} >= {begin}"
