"""Jobs of an import: their progress, their failures, and what a dead process leaves behind."""

import pytest

from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.contacts.import_faults import STOPPED
from uvarovite.core.contacts.import_states import ImportEvent
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.imports import files, jobs, previewing, standing
from uvarovite.store.database import run_sql
from uvarovite.store.imports.staging import put_progress, staged

FILE = "E-mail,Town\nkim@slatepost.example,Skarn\n"


def keep(museum: Museum, text: str = FILE) -> int:
    return files.keep_file(museum.database, SYSTEM, filename="x.csv", content=[text.encode()], now=NOW)


def preview(museum: Museum, import_id: int, *, forget: bool = True, **change: object) -> object:
    return jobs.preview_job(
        museum.database,
        SYSTEM,
        import_id,
        hasher=HASHER,
        clock=lambda: NOW,
        change=previewing.PreviewChange(**change),  # type: ignore[arg-type]
        forget=forget,
    )


def write(museum: Museum, import_id: int, topic: str | None = None) -> object:
    return jobs.write_job(museum.database, SYSTEM, import_id, topic=topic, legal_basis="", clock=lambda: NOW)


def test_a_job_under_way_tells_how_far_it_is_while_its_row_is_locked(museum: Museum) -> None:
    import_id = keep(museum)
    told = []

    def step(phase: str, done: int, total: int) -> None:
        # What another connection sees in the middle of the work.
        with museum.database.transaction() as tx:
            put_progress(tx, import_id, phase=phase, done=done, total=total, now=NOW)
        told.append(standing.get_import(museum.database, SYSTEM, import_id).progress)

    previewing.preview(museum.database, SYSTEM, import_id, hasher=HASHER, now=NOW, step=step)
    assert {one.phase for one in told if one is not None} == {"reading", "comparing"}
    assert standing.get_import(museum.database, SYSTEM, import_id).progress is None


def test_a_dead_job_is_told_and_a_living_one_left_alone(museum: Museum) -> None:
    import_id = keep(museum)
    preview(museum, import_id)
    standing.note(museum.database, import_id, ImportEvent.WRITE)
    with museum.database.transaction() as tx:
        run_sql(tx, "SELECT id FROM import_file WHERE id = :id FOR NO KEY UPDATE", {"id": import_id})
        assert jobs.recover_jobs(museum.database) == 0
    assert jobs.recover_jobs(museum.database) == 1
    view = standing.get_import(museum.database, SYSTEM, import_id)
    assert (view.state, view.fault) == ("looked", STOPPED.message)
    write(museum, import_id)
    assert standing.get_import(museum.database, SYSTEM, import_id).fault is None


def test_a_fault_of_ours_is_told_and_leaves_the_file_as_it_was(museum: Museum) -> None:
    import_id = keep(museum)
    preview(museum, import_id)
    with museum.database.transaction() as tx:
        run_sql(tx, f"ALTER TABLE {staged(import_id)} DROP COLUMN search")
    with pytest.raises(Exception, match="search"):
        write(museum, import_id)
    view = standing.get_import(museum.database, SYSTEM, import_id)
    assert (view.state, view.fault) == ("looked", STOPPED.message)
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM contact")[0][0] == 10


def test_rows_that_a_crash_took_are_looked_at_again(museum: Museum) -> None:
    import_id = keep(museum)
    preview(museum, import_id)
    with museum.database.transaction() as tx:
        run_sql(tx, f"DROP TABLE {staged(import_id)}")
    with pytest.raises(Conflict, match="look at it again"):
        write(museum, import_id)
    preview(museum, import_id, forget=False, form={"encoding": "utf-8"})
    write(museum, import_id)


def test_a_file_that_cannot_be_read_is_not_kept_but_one_that_was_read_before_is(museum: Museum) -> None:
    broken = keep(museum, 'E-mail,Town\n"open\n')
    with pytest.raises(BadInput):
        preview(museum, broken)
    good = keep(museum)
    preview(museum, good)
    with pytest.raises(BadInput):
        preview(museum, good, forget=False, form={"encoding": "utf-16"})
    view = standing.get_import(museum.database, SYSTEM, good)
    assert (view.new, view.state) == (1, "looked")
    assert view.fault is not None
    with pytest.raises(BadInput, match="how these people opted in"):
        write(museum, good, topic="field_walks")
    preview(museum, good, forget=False, tags=["kept"])
    assert standing.get_import(museum.database, SYSTEM, good).fault is None
