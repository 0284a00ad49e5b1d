"""Why a cell, or a row of a file, cannot be taken: one row for each reason, with its words.

What is stored of a fault is its code and its facts; the sentence is made for whoever reads it.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import ClassVar

from uvarovite.core.values import ADDRESS_FAULTS, AddressFault, StoredForm, form_of
from uvarovite.core.values.sentences import Coded, sentence, sentence_of

# A code that several things can be behind has words for each: `how`, one of the facts, says which.
FAULTS: Mapping[str, str] = {
    "too_long": "{field} is longer than {most} characters.",
    "control_character": "{field} holds a control character.",
    "two_readings.number": (
        "{field}: “{text}” has two readings. Say whether , or . is the decimal sign, or write it without a sign for "
        "thousands."
    ),
    "two_readings.day": (
        "{field}: “{text}” has two readings. Say which comes first, day or month, or write it as 2026-05-31 or "
        "31 May 2026."
    ),
    "not_a_number": "{field}: “{text}” is not a number such as 12 or 12.5.",
    "not_money": "{field}: “{text}” is not an amount such as 12.50 {currency}.",
    "other_currency": "{field} is kept in {currency}; “{text}” is in {named}.",
    "not_a_date": "{field}: write “{text}” as 2026-05-31 or 31 May 2026.",
    "no_century": "{field}: “{text}” does not say the century. Write the year with four digits.",
    "no_such_date.day": "{field}: there is no day {text}.",
    "no_such_date.moment": "{field}: there is no moment {text}.",
    "not_a_date_time": "{field}: write “{text}” as 2026-05-31 14:30, which is clear.",
    "not_yes_no": "{field}: “{text}” is neither yes nor no.",
    "no_such_choice": "{field}: “{text}” is not one of {choices}.",
    "not_a_list.too_many": "{field} has {records} records; at most {most} are kept.",
    "not_a_list.parts": "{field}: “{text}” has {parts} parts; there are {wanted}: {keys}.",
    "not_a_list.json": "{field} begins with [ and is no JSON array.",
    "not_a_list.record": "{field} holds {text}, which is no record with {keys}.",
    "not_a_list.unknown": "{field} has a part “{text}”; there are {keys}.",
    "erased": "This person asked to be forgotten. They can come back only by signing up themselves.",
    "no_such_topic": "There is no topic “{text}”.",
    "no_such_audience": "There is no audience “{text}”.",
    "tags": "At most {most} tags of at most {longest} characters, divided by commas.",
    "no_address": "There is neither an address nor a contact number.",
    "too_few_columns": "{lacking:column is|columns are} missing: {there} of {wanted} are there.",
    "too_many_columns": "There are {there} cells for {wanted} columns. A stray delimiter?",
    # What is found when the rows are compared with each other and with who is there.
    "repeated": "Same person as row {first}.",
    "same_person": "Same person as row {first}.",
    "number_taken": "Somebody else has the contact number {number} already.",
    "ambiguous": "More than one person uses this address. Add a contact number to this row.",
    # A refusal from before facts were kept, in the words of then.
    "told": "{words}",
} | {f"address_{code}": words for code, words in ADDRESS_FAULTS.items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadFault(Coded):
    """Why something cannot be taken. `record` and `list` among the facts name a record of a list in which it was found."""

    words: ClassVar[Mapping[str, str]] = FAULTS

    @property
    def message(self) -> str:
        """It in words, with what would do."""
        said = sentence_of(self.words, self.code, self.facts)
        return sentence("{list}, record {record}: ", self.facts) + said if "record" in self.facts else said


def of_address(fault: AddressFault) -> ReadFault:
    """A fault of an address as one of a row."""
    return ReadFault(code=f"address_{fault.code}", facts=fault.facts)


def fault_words(faults: Iterable[ReadFault]) -> str:
    """All that speaks against a row."""
    return " ".join(fault.message for fault in faults)


FAULTS_FORM: StoredForm[tuple[ReadFault, ...]] = form_of(tuple[ReadFault, ...], under="faults")
