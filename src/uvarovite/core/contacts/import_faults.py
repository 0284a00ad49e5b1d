"""Why a file as a whole, or a live source, is not imported: one row for each reason, with its words and what to do.

What is stored is the code and its facts; the sentence is made for whoever looks at the import. A row that does not fit
is another thing (core.contacts.faults).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import Coded

Fact = str | int

# A code that several things can be behind has words for each: `how`, one of the facts, says which.
IMPORT_FAULTS: Mapping[str, str] = {
    "file_empty": "The file is empty. Save it again from where it comes and bring it in then.",
    "file_empty.sheet": "The sheet “{sheet}” holds no column names in its first row. Choose sheet and range.",
    "file_empty.cards": "The file holds no card with a name or an address.",
    "file_too_large": "A workbook may have at most {most} MB. Save the sheet as “CSV UTF-8” instead.",
    "file_rows": "The file has more than {most} rows. Split it and bring the parts in.",
    "file_columns": "The file has {columns} columns; at most {most} can be imported. Leave out the rest.",
    "file_no_header.person": (
        "The first line holds a person, not column names. Put a line above it such as "
        "“E-mail address, First name, Last name”."
    ),
    "file_no_header.long": "The first line holds long texts, not column names. Put column names above it.",
    "file_no_header.quote": "The first line cannot be read as column names. Is a quote left open in it?",
    "file_twice": "Two columns are called “{column}”. Rename one, so that it is clear which counts.",
    "file_no_key_column": (
        "No column holds e-mail addresses or contact numbers, so nobody can be told apart. "
        "Choose the column with the addresses."
    ),
    "file_spreadsheet": (
        "This is a spreadsheet of a kind that cannot be read. In your spreadsheet, save it as “CSV UTF-8” or XLSX."
    ),
    "file_delimiter": 'Columns are separated, and texts are quoted, by one sign such as ; or ".',
    "file_binary": "The file holds NUL bytes, so it is no text file. Save it as “CSV UTF-8”.",
    "file_line": "A line is longer than {most} characters. Is this a contact file?",
    "file_encoding": "The file is not written in {encoding}. Save it as “CSV UTF-8”, or choose its encoding.",
    "file_encoding.unknown": "“{asked}” is not one of {encodings}.",
    "file_broken_quotes": (
        "Near line {line} a quote is not closed or a cell is longer than {most} characters ({said}). "
        "Mend that line and bring the file in again."
    ),
    "file_card": "The last card has no END:VCARD, so the file was cut off. Export it again.",
    "file_range.text": "“{range}” is not a range. Write it as A1:F240, or A3:F for all rows from row 3 on.",
    "file_range.outside": "The range {range} holds nothing; the sheet has {rows:row|rows}.",
    "file_sheet": "There is no sheet “{sheet}”; there are {sheets}.",
    "file_unreadable": (
        "Reading this workbook took more time or memory than a contact list should. Nothing was imported. "
        "Save the sheet as “CSV UTF-8” instead."
    ),
    "file_workbook.no_sheet": "This workbook has no sheet with cells.",
    "file_workbook.said": "This workbook cannot be read ({said}). Save the sheet as “CSV UTF-8”.",
    "file_workbook.members": "This archive holds more files than any workbook has.",
    "file_workbook.locked": "This workbook is damaged or locked by a password ({said}).",
    "file_workbook.damaged": "This workbook is damaged ({said}).",
    "file_workbook.tag": "This workbook is damaged: it holds a tag that never ends.",
    "file_bomb": (
        "The workbook unpacks to more than {most} MB. Nothing of it was read. Save the sheet as “CSV UTF-8” instead."
    ),
    "file_extent": (
        "The sheet claims to have {rows} rows and {columns} columns. Nothing of it was read. "
        "Delete what stands far away from the table, or save the sheet as “CSV UTF-8”."
    ),
    "source_not_allowed": "{host} may not be read. The administrator allows a host by UVAROVITE_SOURCE_HOSTS.",
    "source_not_allowed.no_host": "“{host}” is not a host. Write one name, such as db.example, or one address.",
    "source_own": "This is the application's own database. A live source is another one.",
    "source_unreachable": "The database cannot be reached: {said}",
    "source_unreachable.no_host": "There is no host called {host}. Check the spelling.",
    "source_unreachable.no_file": "The file {file} is not there any more.",
    "source_refused": "The database did not do it: {said}",
    "source_refused.unread": "It could not be read: {said}",
    "source_refused.memory": "What was asked for takes more memory than a list of people should. Narrow the SELECT.",
    "source_refused.nothing": "Choose a table or a view, or write a SELECT.",
    "source_refused.long": "The SELECT is longer than {most} characters. Make a view of it in the database.",
    "source_refused.no_select": "It has to begin with SELECT or WITH: a source is read and never changed.",
    "source_refused.semicolon": "One SELECT without a semicolon in it, please.",
    "source_slow": "It took longer than {seconds} s and was given up. Narrow the SELECT.",
    "source_rows": "The source has {rows} rows; at most {most} are read. Narrow the SELECT.",
    "source_powerful.superuser": (
        "This account is a superuser, or may reach the files of its server. "
        "Make one for Uvarovite that may only SELECT from what it should read."
    ),
    "source_powerful.administrator": (
        "This account is an administrator, or may reach the files of its server. "
        "Make one for Uvarovite that may only SELECT from what it should read."
    ),
    "source_unknown": "Fetch it by hand once and import its people: what its columns are is not known.",
    "source_columns": "Its columns are not those of the last time. Fetch it by hand and look at them.",
    "source_no_rows": "It has no rows any more. Fetch it by hand if that is right.",
    "source_secret.other_key": "Its password was stored under another secret key. Enter it again in the source's settings.",
    "source_secret.other_server": "Its password was given for another server. Enter it again in the source's settings.",
    "not_previewed": "The rows of this file are gone; look at it again.",
    "field_removed": "The field {field} was removed meanwhile; look at the file again.",
    "stopped": (
        "It stopped before it was done, and nothing was written. Try again; if it stops again, the server's log says why."
    ),
    "dropped": "Somebody in this file asked to be forgotten meanwhile, so it was dropped. Import it again without them.",
    # What is refused for no fault of the file, and faults from before facts were kept, in their words.
    "told": "{words}",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportFault(Coded):
    """Why a file or a live source was not imported."""

    words: ClassVar[Mapping[str, str]] = IMPORT_FAULTS


IMPORT_FAULT_FORM: StoredForm[ImportFault] = form_of(ImportFault)
STOPPED = ImportFault(code="stopped", facts={})
DROPPED = ImportFault(code="dropped", facts={})


class _Unreadable(Exception):
    whose: ClassVar[str]

    def __init__(self, code: str, **facts: Fact) -> None:
        # What others say may hold anything; a zero byte cannot be stored.
        kept = {name: fact.replace("\0", "") if isinstance(fact, str) else fact for name, fact in facts.items()}
        self.fault = ImportFault(code=f"{self.whose}_{code}", facts=kept)
        super().__init__(self.fault.message)
        self.code = code
        self.message = self.fault.message


class FileFault(_Unreadable):
    """A file that cannot be brought in at all. Whose doing: the file's; `message` says how to mend it."""

    whose = "file"


class SourceFault(_Unreadable):
    """A source that cannot be read. Whose doing: the settings', the network's or the other database's."""

    whose = "source"
