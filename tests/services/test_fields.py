"""Fields: made, retyped with a report and nothing lost unseen, removed and brought back; topics; views; the table."""

import pytest

from tests.support.importing import import_people
from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.table_columns import TableColumn
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.consent import topics
from uvarovite.services.contacts import editing, fields
from uvarovite.services.contacts.fields import FieldDraft
from uvarovite.services.contacts.people import person
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.services.selection.table import Wanted, contact_page, count_contacts
from uvarovite.services.selection.views import delete_view, save_view, view_list

SPECIMENS = FieldDraft(
    key="specimens",
    label="Specimens",
    type="list",
    parts=(
        FieldDraft(key="name", label="Name", type="text"),
        FieldDraft(key="price", label="Price", type="money", currency="EUR"),
    ),
)


def value(museum: Museum, contact_no: str, key: str) -> object:
    return person(museum.database, SYSTEM, museum.contact_id(contact_no), NOW).record.get(key)


def test_a_list_field_is_made_filled_sorted_and_asked_for(museum: Museum) -> None:
    assert fields.make_field(museum.database, SYSTEM, SPECIMENS) == "specimens"
    import_people(museum, "Contact no.,Specimens\nM-01,Fluorite | 12.50; Galena\nM-02,Calcite\n")
    assert value(museum, "M-01", "specimens") == [
        {"name": "Fluorite", "price": {"amount": "12.50", "currency": "EUR"}},
        {"name": "Galena"},
    ]
    first = contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW, sort="-specimens", limit=2)
    assert [row.contact_no for row in first.rows] == ["M-01", "M-02"]
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(search="galena"), now=NOW) == 1
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="specimens is not blank"), now=NOW) == 2
    told = next(field for field in vocabulary(museum.database, SYSTEM).fields if field.key == "specimens")
    assert (told.samples, told.blank, [part.key for part in told.parts]) == (
        ["Calcite", "Fluorite"],
        8,
        ["name", "price"],
    )


@pytest.mark.parametrize(
    "draft",
    [
        FieldDraft(key="town", label="Another", type="text"),
        FieldDraft(key="address", label="Another", type="text"),
        FieldDraft(key="another", label="TOWN", type="text"),
        FieldDraft(key="another", label="Another", type="colour"),
        FieldDraft(key="is", label="Another", type="text"),
        FieldDraft(key="another", label="Another", type="list", parts=(SPECIMENS,)),
    ],
)
def test_a_field_that_cannot_be_is_not_made(museum: Museum, draft: FieldDraft) -> None:
    before = vocabulary(museum.database, SYSTEM).fields
    with pytest.raises(BadInput):
        fields.make_field(museum.database, SYSTEM, draft)
    assert vocabulary(museum.database, SYSTEM).fields == before


def test_a_removed_field_is_gone_everywhere_and_comes_back_with_its_values(museum: Museum) -> None:
    save_audience(
        museum.database, SYSTEM, audience_id=None, name="In Skarn", text='town is "Skarn"', revision=None, now=NOW
    )
    with pytest.raises(Conflict, match="In Skarn"):
        fields.remove_field(museum.database, SYSTEM, "town", now=NOW)
    fields.remove_field(museum.database, SYSTEM, "volunteer", now=NOW)
    assert "volunteer" not in {field.key for field in vocabulary(museum.database, SYSTEM).fields}
    with pytest.raises(BadInput):
        count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="volunteer"), now=NOW)
    with pytest.raises(BadInput, match="bring it back"):
        fields.make_field(museum.database, SYSTEM, FieldDraft(key="volunteer", label="Helper", type="text"))
    assert [field.key for field in fields.removed_fields(museum.database, SYSTEM)] == ["volunteer"]
    fields.restore_field(museum.database, SYSTEM, "volunteer")
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="volunteer"), now=NOW) == 2
    with pytest.raises(NotFound):
        fields.restore_field(museum.database, SYSTEM, "volunteer")


def test_fields_stand_in_the_order_that_they_are_given(museum: Museum) -> None:
    own = [field.key for field in vocabulary(museum.database, SYSTEM).fields if not field.standard]
    fields.order_fields(museum.database, SYSTEM, own[::-1])
    assert [field.key for field in vocabulary(museum.database, SYSTEM).fields if not field.standard] == own[::-1]
    with pytest.raises(BadInput):
        fields.order_fields(museum.database, SYSTEM, own[1:])


def test_every_order_pages_through_everybody_once_with_blanks_last(museum: Museum) -> None:
    fields.make_field(museum.database, SYSTEM, SPECIMENS)
    import_people(museum, "Contact no.,Specimens\nM-05,Fluorite; Galena\nM-02,Calcite\n")
    keys = ["name", "added", *(field.key for field in vocabulary(museum.database, SYSTEM).fields)]
    for sort in [*keys, *(f"-{key}" for key in keys)]:
        seen: list[str | None] = []
        blank: list[bool] = []
        after = None
        while True:
            page = contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW, sort=sort, after=after, limit=3)
            key = sort.removeprefix("-")
            seen += [row.contact_no for row in page.rows]
            blank += [
                {**row.record, **vars_of(row)}.get(key, "") is None or key not in {**row.record, **vars_of(row)}
                for row in page.rows
            ]
            after = page.after
            if after is None:
                break
        assert len(seen) == len(set(seen)) == 10, sort
        assert blank == sorted(blank), sort
    with pytest.raises(BadInput):
        contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW, sort="shoe_size")
    with pytest.raises(BadInput):
        contact_page(museum.database, SYSTEM, wanted=Wanted(), now=NOW, after="nonsense")


def vars_of(row) -> dict[str, object]:  # type: ignore[no-untyped-def]
    return {
        **{key: getattr(row, key) for key in ("contact_no", "address", "first_name", "last_name", "language")},
        "name": row.last_name or row.first_name,
        "added": row.created_at,
    }


def test_words_and_criteria_narrow_the_table_together(museum: Museum) -> None:
    wanted = Wanted(search="gray", criteria='membership is "Patron"')
    page = contact_page(museum.database, SYSTEM, wanted=wanted, now=NOW)
    assert [row.contact_no for row in page.rows] == ["M-01"]
    assert count_contacts(museum.database, SYSTEM, wanted=wanted, now=NOW) == 1
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(search="100% _"), now=NOW) == 0
    with pytest.raises(BadInput) as fault:
        contact_page(museum.database, SYSTEM, wanted=Wanted(criteria="membership is Patron"), now=NOW)
    assert fault.value.place is not None


def test_a_view_is_kept_for_everybody_and_not_overwritten_unseen(museum: Museum) -> None:
    def save(view_id: int | None, name: str, revision: int | None, **told: object) -> int:
        given = {"criteria": "", "columns": [TableColumn(key="name", width=5)], "sort": "-town", **told}
        return save_view(museum.database, SYSTEM, view_id=view_id, name=name, revision=revision, now=NOW, **given).id  # type: ignore[arg-type]

    view_id = save(None, "Towns", None)
    assert view_list(museum.database, SYSTEM)[0].columns[0].width == 60
    save(view_id, "Towns", 1, criteria='town is "Skarn"')
    with pytest.raises(Conflict):
        save(view_id, "Towns", 1)
    for name, told in (
        ("", {}),
        ("Towns", {}),
        ("x", {"criteria": "town is"}),
        ("x", {"sort": "y"}),
        ("x", {"columns": []}),
    ):
        with pytest.raises(BadInput):
            save(None, name, None, **told)
    delete_view(museum.database, SYSTEM, view_id)
    assert view_list(museum.database, SYSTEM) == []


def test_topics_are_made_changed_ordered_and_kept_once_they_were_asked_about(museum: Museum) -> None:
    made = topics.save_topic(
        museum.database, SYSTEM, topic_id=None, key="open_days", name="Open days", description="", sender_id=None, revision=None
    )  # fmt: skip
    with pytest.raises(Conflict):
        topics.save_topic(
            museum.database, SYSTEM, topic_id=made, key="", name="Open evenings", description="", sender_id=None, revision=7
        )  # fmt: skip
    ids = [topic.id for topic in vocabulary(museum.database, SYSTEM).topics]
    topics.order_topics(museum.database, SYSTEM, ids[::-1])
    assert vocabulary(museum.database, SYSTEM).topics[0].key == "open_days"
    topics.remove_topic(museum.database, SYSTEM, made)
    with pytest.raises(Conflict, match="has to stay"):
        topics.remove_topic(museum.database, SYSTEM, museum.topic_id)
    for key, name in (("field_walks", "New"), ("Bad Key", "New"), ("new", "field walks"), ("new", "")):
        with pytest.raises(BadInput):
            topics.save_topic(
                museum.database, SYSTEM, topic_id=None, key=key, name=name, description="", sender_id=None, revision=None
            )  # fmt: skip


def test_a_date_time_is_entered_in_the_organisations_own_time(museum: Museum) -> None:
    fields.make_field(museum.database, SYSTEM, FieldDraft(key="seen", label="Seen", type="date_time"))
    editing.change_value(
        museum.database, SYSTEM, museum.contact_id("M-01"), key="seen", before=None, text="2026-07-01 14:30", hasher=HASHER,
        now=NOW,
    )  # fmt: skip
    assert value(museum, "M-01", "seen") == "2026-07-01T13:30:00Z"
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="seen on 2026-07-01"), now=NOW) == 1
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(criteria="seen within last 6 months"), now=NOW) == 1
