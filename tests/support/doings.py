"""What coordinators and recipients do, at random, and the short books that tell who may not be written to for it."""

import shutil
import tempfile
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from tests.support.acting import acting
from tests.support.importing import import_people
from tests.support.museum import HASHER, KEYRING, NOW, Museum, changed_campaign
from tests.support.till import Till
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.accounts.users import create_user
from uvarovite.services.audiences.audiences import save_audience
from uvarovite.services.audiences.members import pick_one
from uvarovite.services.campaigns.campaigns import save_campaign
from uvarovite.services.contacts import duplicates, editing
from uvarovite.services.errors import BadInput
from uvarovite.services.imports.undo import undo_import
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.services.responses.leaving import leave_topic
from uvarovite.services.responses.visits import Visit
from uvarovite.services.saving.drafts import DraftKind, get_drafts, keep_draft, throw_away
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.store.database import run_sql
from uvarovite.store.tables import MemberKind

TOPIC = "field_walks"
PERSON = st.integers(1, 12)
ADDRESSES = [f"{name}@slatepost.example" for name in ("ada", "benoit", "hugh", "kim", "lou")]
ADDRESS = st.sampled_from(ADDRESSES)
ROWS = st.lists(st.tuples(st.sampled_from(["M-01", "M-02", "M-07", "N-01", ""]), ADDRESS), min_size=1, max_size=3)


class Doings(RuleBasedStateMachine):
    """The machine's own books: contacts in `left`, `merged` and `left_out` (of the second audience), addresses in `closed`
    and `erased`.

    `shut` holds, by address, who closed the topic for it and which of those who have it are spared.
    """

    museum: Museum

    @initialize()
    def begin(self) -> None:
        """Two campaigns of one message: to everybody, and to an audience of its own."""
        # Words that need nothing of anybody, so that no hole stands in the way of a release.
        words = MessageContent(subject="Two walks are open", preheader="", blocks=(Paragraph(text="Come along"),))
        message = save_message(
            self.museum.database, SYSTEM, message_id=None, name="Plain", content=words, revision=None, now=NOW
        )
        view = self.museum.change(message_id=message.id)
        skarn = save_audience(
            self.museum.database, SYSTEM, audience_id=None, name="Skarn", text='town is "Skarn"', revision=None, now=NOW
        )
        self.skarn, self.left_out = skarn.id, set[int]()
        second = changed_campaign(view, name="Second", audience_id=skarn.id)
        made = save_campaign(self.museum.database, SYSTEM, campaign_id=None, change=second, revision=None, now=NOW)
        self.campaigns = [self.museum.campaign_id, made.id]
        self.now = NOW
        self.left = {self.museum.contact_id("M-08")}
        self.closed = {"ivy@slatepost.example", "jude@slatepost.example"}
        self.erased: set[str] = set()
        self.merged: set[int] = set()
        self.shut: dict[str, tuple[int, frozenset[int]]] = {}
        self.till = Till(self.museum, Path(tempfile.mkdtemp(prefix="uvarovite-till-")))
        self.user = create_user(
            self.museum.database, SYSTEM, email="ada@museum.example", name="Ada", password="x" * 12, now=NOW
        )
        self.message, self.writing = message.id, False
        self.known = self.people()
        self.undoable: list[Callable[[], object]] = []

    def pass_time(self) -> None:
        self.now += timedelta(hours=1)

    @invariant()
    def whoever_is_gone_from_an_address_left_there_what_they_closed(self) -> None:
        """Whatever took them from it: deleted, merged, corrected, brought in or undone."""
        there = self.people()
        for person, address in self.known.items():
            if person in self.left and address is not None and there.get(person) != address:
                others = frozenset(one for one, theirs in self.known.items() if theirs == address and one != person)
                self.shut.setdefault(address, (person, others))
        self.known = there

    def is_shut(self, person: int, address: str | None) -> bool:
        return address in self.shut and person not in self.shut[address][1]

    def people(self) -> dict[int, str | None]:
        """Everybody who is there, with their folded address."""
        with self.museum.database.transaction() as tx:
            rows = run_sql(tx, "SELECT id, address_folded FROM contact WHERE deleted_at IS NULL")
        return {row.id: row.address_folded for row in rows}

    def only(self, person: int) -> Selection:
        return Selection(ids=(person,), seen=1)

    def teardown(self) -> None:
        if hasattr(self, "till"):
            shutil.rmtree(self.till.path.parent)

    # ------------------------------------------------------------------ what people say

    @rule(
        person=PERSON, kind=st.sampled_from(["granted", "confirmed", "withdrawn", "asked"]), for_address=st.booleans()
    )
    def says(self, person: int, kind: str, for_address: bool) -> None:
        self.pass_time()
        if person not in self.people():
            return
        editing.record_consent(
            self.museum.database, SYSTEM, person, topic=TOPIC, kind=kind, wording="at the desk", until=None,
            for_address=for_address or None, now=self.now,
        )  # fmt: skip
        address = self.people()[person]
        if kind == "withdrawn":
            self.left.add(person)
            if address is not None and (for_address or list(self.people().values()).count(address) == 1):
                self.shut[address] = (person, frozenset())
        elif kind != "asked":
            self.left.discard(person)
            closer = self.shut[address][0] if address in self.shut else person
            # Another's word does not open what somebody who is there has closed; an answer from the mailbox does.
            if address is not None and (
                kind == "confirmed" or closer == person or self.people().get(closer) != address
            ):
                self.shut.pop(address, None)

    @rule(which=st.integers(0, 9))
    def leaves_by_the_link(self, which: int) -> None:
        """Of a message that somebody has; they may be deleted or erased by now, and come back."""
        self.pass_time()
        with self.museum.database.transaction() as tx:
            rows = run_sql(
                tx, "SELECT id, contact_id, address_folded FROM delivery WHERE state = 'accepted' ORDER BY id"
            )
        if not rows:
            return
        delivery = rows[which % len(rows)]
        token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=delivery.id), KEYRING)
        visit = Visit(method="POST", agent="MailApp/7", origin="127.0.0.1")
        assert (
            leave_topic(self.museum.database, token, visit, channel="link", keyring=KEYRING, now=self.now) is not None
        )
        self.left.add(delivery.contact_id)
        if not delivery.address_folded.startswith("erased "):
            self.shut[delivery.address_folded] = (delivery.contact_id, frozenset())

    # ------------------------------------------------------------------ what coordinators do

    @rule(person=PERSON, topic=st.sampled_from([None, TOPIC]))
    def suppress(self, person: int, topic: str | None) -> None:
        self.pass_time()
        address = self.people().get(person)
        if address is not None:
            editing.suppress_person(
                self.museum.database, SYSTEM, person, topic=topic, reason="asked for it", now=self.now
            )
            self.closed.add(address)

    @rule(person=PERSON, kind=st.sampled_from(MemberKind))
    def pick(self, person: int, kind: MemberKind) -> None:
        """Add somebody to the second audience by hand, or leave them out of it."""
        self.pass_time()
        if person in self.people():
            pick_one(self.museum.database, SYSTEM, self.skarn, person, kind=kind, now=self.now)
            (self.left_out.add if kind is MemberKind.LEFT_OUT else self.left_out.discard)(person)

    @rule(rows=ROWS, subscribed=st.booleans())
    def bring_people_in(self, rows: list[tuple[str, str]], subscribed: bool) -> None:
        self.pass_time()
        file = "Contact no.,E-mail address,Town\n" + "".join(f"{no},{address},Skarn\n" for no, address in rows)
        told = {"topic": TOPIC, "legal_basis": "Signed a list"} if subscribed else {}
        done = import_people(self.museum, file, now=self.now, **told)
        self.undoable.append(lambda: undo_import(self.museum.database, SYSTEM, done.id, now=self.now))

    @rule(address=ADDRESS)
    def pull_the_shops_customers(self, address: str) -> None:
        self.pass_time()
        self.till.now = self.now
        self.till.put(address, "Sam", "Skarn")
        self.till.write(self.till.pull(), topic=TOPIC)

    @rule(person=PERSON)
    def subscribe(self, person: int) -> None:
        self.pass_time()
        if person in self.people():
            self.keep(
                bulk.subscribe(
                    self.museum.database, SYSTEM, self.only(person), topic=TOPIC, legal_basis="A list", now=self.now
                )
            )

    @rule(person=PERSON)
    def delete(self, person: int) -> None:
        self.pass_time()
        if person in self.people():
            self.keep(bulk.delete(self.museum.database, SYSTEM, self.only(person), now=self.now))

    def keep(self, done: bulk.BulkResult) -> None:
        change = done.change_set_id
        if change is not None:
            self.undoable.append(lambda: bulk.undo(self.museum.database, SYSTEM, change, now=self.now))

    @rule(which=st.integers(0, 5))
    def undo(self, which: int) -> None:
        self.pass_time()
        if self.undoable:
            self.undoable.pop(which % len(self.undoable))()

    @rule(person=PERSON, address=ADDRESS)
    def correct_the_address(self, person: int, address: str) -> None:
        self.pass_time()
        before = self.people().get(person, "")
        if before == "":
            return
        with self.museum.database.transaction() as tx:
            stored = run_sql(tx, "SELECT address FROM contact WHERE id = :id", {"id": person})[0].address
        try:
            editing.change_value(
                self.museum.database, SYSTEM, person, key="address", before=stored, text=address, hasher=HASHER, now=self.now,
            )  # fmt: skip
        except BadInput:
            assert address in self.erased

    @rule(kept=PERSON, gone=PERSON)
    def merge(self, kept: int, gone: int) -> None:
        self.pass_time()
        people = self.people()
        if kept == gone or kept not in people or gone not in people:
            return
        duplicates.merge(self.museum.database, SYSTEM, kept_id=kept, gone_ids=[gone], choices={}, now=self.now)
        self.merged.add(kept)
        if gone in self.left:
            self.left.add(kept)
        address = self.people()[kept]
        if address is not None and {people[kept], people[gone]} & self.closed:
            self.closed.add(address)

    @rule(person=PERSON)
    def erase(self, person: int) -> None:
        self.pass_time()
        people = self.people()
        if person not in people:
            return
        bulk.erase(self.museum.database, SYSTEM, self.only(person), hasher=HASHER, now=self.now)
        if (address := people[person]) is not None:
            self.erased.add(address)

    @rule(subject=st.sampled_from(["One walk", "Two walks", "No walk"]))
    def write(self, subject: str) -> None:
        """Somebody changes the words and does not save them; a tab of theirs may have been quicker."""
        had = get_drafts(self.museum.database, acting(self.user), DraftKind.MESSAGE, self.message).mine
        assert (had is not None) == self.writing
        keep_draft(
            self.museum.database, acting(self.user), DraftKind.MESSAGE, self.message, base={}, base_revision=1, body={"subject": subject},
            seen=had.revision if had else 0, now=self.now,
        )  # fmt: skip
        self.writing = True

    @rule(save=st.booleans(), subject=st.sampled_from(["One walk", "Two walks"]))
    def finish_writing(self, save: bool, subject: str) -> None:
        saved = get_message(self.museum.database, SYSTEM, self.message)
        if save:
            content = saved.content.model_copy(update={"subject": subject})
            save_message(
                self.museum.database, acting(self.user), message_id=self.message, name=saved.name, content=content,
                revision=saved.revision, now=self.now,
            )  # fmt: skip
        else:
            throw_away(self.museum.database, acting(self.user), DraftKind.MESSAGE, self.message)
        self.writing = False
