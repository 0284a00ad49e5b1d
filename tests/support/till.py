"""The shop's till: a SQLite file as a live source of the museum."""

import sqlite3
from contextlib import closing
from pathlib import Path

from tests.support.museum import HASHER, NOW, SECRET, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.live_sources import PullFound
from uvarovite.net.live_sources import read_source
from uvarovite.services.contacts.people import person
from uvarovite.services.imports import writing
from uvarovite.services.imports.views import ImportView
from uvarovite.services.sources import jobs, live_sources
from uvarovite.services.sources.jobs import PullTools
from uvarovite.services.sources.live_sources import SourceAccessDraft, SourceDraft, SourceView

FILE = "till.sqlite"
GROUND = "Box ticked on the receipt"


class Till:
    """The shop's database, and the museum's source that reads it."""

    def __init__(self, museum: Museum, directory: Path) -> None:
        self.museum, self.path = museum, directory / FILE
        self.now = NOW
        self.run("CREATE TABLE customer (email TEXT, first_name TEXT, town TEXT)")
        self.put("BENOIT@slatepost.example", "Benoît", "Skellbeck")
        self.put("new@tinmail.example", "Nora", "Marlby")
        self.tools = PullTools(
            read=read_source, secret=SECRET, directory=directory, hasher=HASHER, clock=lambda: self.now
        )
        self.id = self.save(self.draft()).id

    def run(self, sql: str, *values: str) -> None:
        with closing(sqlite3.connect(self.path)) as shop:
            shop.execute(sql, values)
            shop.commit()

    def put(self, *row: str) -> None:
        self.run("INSERT INTO customer VALUES (?, ?, ?)", *row)

    def draft(self) -> SourceDraft:
        access = SourceAccessDraft(kind="sqlite", database=FILE)
        return SourceDraft(name="Till", access=access, table="customer", gone_tag="gone from the till")

    def save(self, draft: SourceDraft, source_id: int | None = None) -> SourceView:
        return live_sources.save_source(
            self.museum.database, SYSTEM, source_id, draft, secret=SECRET, files=[FILE], now=self.now
        )

    def view(self) -> SourceView:
        return live_sources.get_source(self.museum.database, SYSTEM, self.id, self.now)

    def pull(self) -> ImportView:
        import_id = jobs.begin_pull(self.museum.database, SYSTEM, self.id, now=self.now)
        return jobs.pull_job(self.museum.database, SYSTEM, self.id, import_id, self.tools)

    def write(self, view: ImportView, topic: str | None = None) -> ImportView:
        return writing.write_import(
            self.museum.database, SYSTEM, view.id, topic=topic, legal_basis=GROUND, now=self.now
        )

    def by_itself(self, channel: str = "schedule") -> None:
        jobs.pull_by_itself(self.museum.database, self.id, self.tools, channel=channel)

    def found(self) -> PullFound:
        found = self.view().pulls[0].found
        assert found is not None
        return found

    def tags(self, contact_no: str) -> list[str]:
        return person(self.museum.database, SYSTEM, self.museum.contact_id(contact_no), self.now).tags
