"""How many of a campaign's people have nothing in a field, beside the field picker."""

import pytest

from tests.support.museum import NOW, Museum, changed_campaign
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.campaigns.campaigns import save_campaign
from uvarovite.services.campaigns.field_blanks import blanks_among_readers
from uvarovite.services.errors import NotFound
from uvarovite.store.database import run_sql


def blanks(museum: Museum) -> dict[str, int]:
    return blanks_among_readers(museum.database, SYSTEM, museum.campaign_id, NOW)


def test_blanks_are_of_those_who_get_it(museum: Museum) -> None:
    told = blanks(museum)
    # Dai has no first name, Edda no pledge; whoever has no address is not cleared, and is not counted.
    assert [told[key] for key in ("first_name", "pledge", "town", "address")] == [1, 1, 0, 0]
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET first_name = NULL WHERE contact_no IN ('M-01', 'M-08')")
    # Hugh left the topic.
    assert blanks(museum)["first_name"] == 2


def test_a_field_that_is_required_is_counted_as_any_other(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        run_sql(
            tx,
            """INSERT INTO message_version (message_id, number, content, created_at)
                SELECT message_id, number + 1, content || '{"needed": ["first_name"]}', now() FROM message_version
                    WHERE message_id = :id""",
            {"id": museum.message_id},
        )
    assert blanks(museum)["first_name"] == 1


def test_nobody_is_counted_while_it_is_not_said_who_they_are(museum: Museum) -> None:
    view = museum.view()
    save_campaign(
        museum.database, SYSTEM, campaign_id=museum.campaign_id, change=changed_campaign(view, topic_id=None),
        revision=view.revision, now=NOW,
    )  # fmt: skip
    assert blanks(museum) == {}
    with pytest.raises(NotFound):
        blanks_among_readers(museum.database, SYSTEM, 4_711, NOW)
