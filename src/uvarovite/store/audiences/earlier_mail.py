"""What a person has had, or is about to get: the SQL behind the caps and behind *not again*.

`sent_mail` holds a narrow row for every message that a relay took, or may have taken; what a run has still to send
stands in its deliveries. Both count: two campaigns that are released on one morning know of each other.
"""

from uvarovite.core.audiences import MONTH_DAYS, WEEK_DAYS, Again, ClearanceTerms
from uvarovite.core.delivery import DELIVERY, RUN, BatchState, DeliveryState
from uvarovite.store.states import states_sql


def _on_its_way(among: str = "TRUE") -> str:
    """Whom a run that is not over has still to send to, and who was in a worker's hands when a run was stopped.

    `among` narrows the runs. Batches say who is in hand, since the state of a delivery stands in no index.
    """
    going = f"run.state IN ({states_sql(RUN.open)})"
    return f"""SELECT delivery.contact_id, delivery.run_id, delivery.address_folded
            FROM run JOIN delivery ON delivery.run_id = run.id
            WHERE {going} AND delivery.state IN ({states_sql(DELIVERY.open)}) AND {among}
        UNION ALL SELECT delivery.contact_id, delivery.run_id, delivery.address_folded
            FROM batch JOIN run ON run.id = batch.run_id
            JOIN delivery ON delivery.run_id = batch.run_id AND delivery.batch_number = batch.number
            WHERE batch.state = '{BatchState.CLAIMED}' AND NOT {going}
                AND delivery.state = '{DeliveryState.SENDING}' AND {among}"""


def over_cap_sql(terms: ClearanceTerms) -> str:
    """(contact_id, address_folded, cap) of everybody, and of every address, that has reached one of the caps, of which
    there must be some; the shortest span's first.

    A row is about a person or about an address, the other column being NULL: a household has one mailbox, and somebody
    who moves to another address has had what they have had.
    """
    caps = terms.caps.in_force()
    days = MONTH_DAYS if {"month", "topic_month"} & set(caps) else WEEK_DAYS
    week, topic = f"at > CAST(:now AS timestamptz) - interval '{WEEK_DAYS} days'", "topic_id = :topic_id"
    counted = {
        "week": f"count(*) FILTER (WHERE {week})",
        "month": "count(*)",
        "topic_week": f"count(*) FILTER (WHERE {topic} AND {week})",
        "topic_month": f"count(*) FILTER (WHERE {topic})",
    }
    cases = " ".join(f"WHEN {counted[name]} >= :cap_{name} THEN '{name}'" for name in caps)
    who = "contact_id, address_folded"
    coming = coming_of_asked = ""
    if terms.any_going:
        coming = f"UNION ALL SELECT {who}, run_id, CAST(:now AS timestamptz) FROM ({_on_its_way()}) AS coming"
        coming_of_asked = f"UNION ALL SELECT {who} FROM ({_on_its_way('run.id = ANY(:runs_asked)')}) AS coming"
    # Most caps allow more than there were runs: then nothing is read at all.
    asked = "FALSE"
    if terms.runs_to_look_through():
        of_asked = f"SELECT {who} FROM sent_mail WHERE run_id = ANY(:runs_asked) {coming_of_asked}"
        asked = f"""(contact_id IN (SELECT contact_id FROM ({of_asked}) AS asked)
            OR address_folded IN (SELECT address_folded FROM ({of_asked}) AS asked))"""
    runs = "JOIN run ON run.id = mail.run_id" if {"topic_week", "topic_month"} & set(caps) else ""
    return f"""SELECT {who}, CASE {cases} END AS cap
        FROM (SELECT {who}, run_id, at FROM sent_mail
                WHERE at > CAST(:now AS timestamptz) - interval '{days} days' {coming}) AS mail
        {runs} WHERE {asked}
        GROUP BY GROUPING SETS ((contact_id), (address_folded))
        HAVING (contact_id IS NOT NULL OR address_folded IS NOT NULL)
            AND ({" OR ".join(f"{counted[name]} >= :cap_{name}" for name in caps)})"""


def had_enough_sql(terms: ClearanceTerms) -> str:
    """(contact_id, at_most) of everybody who has had, or is about to get, what they want at most in a week or a month.

    What went to their address counts, whoever of a household it was for.
    """
    coming = ""
    if terms.any_going:
        coming = (
            f"UNION ALL SELECT contact_id, address_folded, CAST(:now AS timestamptz) FROM ({_on_its_way()}) AS coming"
        )
    had = f"""SELECT contact_id, address_folded, at FROM sent_mail
        WHERE at > CAST(:now AS timestamptz) - interval '{MONTH_DAYS} days' {coming}"""
    # What is about one and about the other is looked up in hashes, one after the other.
    of_each = [
        f"""SELECT own_limit.contact_id, at_most FROM own_limit JOIN contact AS theirs ON theirs.id = own_limit.contact_id
            JOIN ({had}) AS had ON {same} WHERE had.at > CAST(:now AS timestamptz)
                - CASE at_most WHEN 'week' THEN interval '{WEEK_DAYS} days' ELSE interval '{MONTH_DAYS} days' END"""
        for same in ("had.contact_id = theirs.id", "had.address_folded = theirs.address_folded")
    ]
    return " UNION ".join(of_each)


def already_sql(terms: ClearanceTerms) -> str:
    """(contact_id, address_folded) of everybody who has the campaign or the message, or is about to.

    By the address that it went to as well: somebody else of a household is not written to because the first of them had
    it already, even if the first has another address by now.
    """
    if terms.again is Again.NEW_TO_CAMPAIGN:
        runs = "SELECT id FROM run WHERE campaign_id = :campaign_id"
    else:
        runs = (
            "SELECT run.id FROM run JOIN message_version ON message_version.id = run.message_version_id "
            "WHERE message_version.message_id = :message_id"
        )
    coming = ""
    if terms.any_going:
        coming = (
            f"UNION ALL SELECT contact_id, address_folded FROM ({_on_its_way()}) AS coming WHERE run_id IN ({runs})"
        )
    return f"SELECT contact_id, address_folded FROM sent_mail WHERE run_id IN ({runs}) {coming}"
