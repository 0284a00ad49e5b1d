"""The states of an import, as a table; drawn in docs/states.md."""

from enum import StrEnum

from uvarovite.core.values.state_table import StateTable


class ImportState(StrEnum):
    """Where an import stands. READING and WRITING are under way; a heartbeat tells whether still."""

    READING = "reading"
    LOOKED = "looked"
    WRITING = "writing"
    WRITTEN = "written"
    UNDONE = "undone"
    FAILED = "failed"


class ImportEvent(StrEnum):
    """What moves an import on.

    BREAK_OFF: it could not be read or written, or its process died; whoever waits is told why. DROP: somebody in it
    asked to be forgotten.
    """

    READ = "read"
    SHOW = "show"
    WRITE = "write"
    FINISH = "finish"
    BREAK_OFF = "break_off"
    DROP = "drop"
    UNDO = "undo"


_S, _E = ImportState, ImportEvent

IMPORT = StateTable(
    name="import",
    start=_S.READING,
    moves={
        (_S.READING, _E.SHOW): _S.LOOKED,
        (_S.LOOKED, _E.READ): _S.READING,
        (_S.FAILED, _E.READ): _S.READING,
        (_S.LOOKED, _E.WRITE): _S.WRITING,
        (_S.WRITING, _E.FINISH): _S.WRITTEN,
        (_S.READING, _E.BREAK_OFF): _S.LOOKED,
        (_S.WRITING, _E.BREAK_OFF): _S.LOOKED,
        (_S.READING, _E.DROP): _S.FAILED,
        (_S.LOOKED, _E.DROP): _S.FAILED,
        (_S.WRITING, _E.DROP): _S.FAILED,
        (_S.WRITTEN, _E.UNDO): _S.UNDONE,
    },
)

# What a process is at work on.
UNDER_WAY = frozenset({_S.READING, _S.WRITING})
