"""What is refused of a file or a live source, as a refusal and as the fault that is kept of it."""

from uvarovite.core.contacts.import_faults import IMPORT_FAULTS, Fact, ImportFault
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal


def bad_import(fault: ImportFault) -> BadInput:
    """The refusal of a file or a source that cannot be read."""
    return BadInput(fault.code, fault.message, facts=fault.facts)


def import_conflict(code: str, **facts: Fact) -> Conflict:
    """The refusal of an import that no longer goes with what is there."""
    fault = ImportFault(code=code, facts=facts)
    return Conflict(fault.code, fault.message, facts=facts)


def kept_fault(refusal: ServiceRefusal) -> ImportFault:
    """What is kept of a refusal: its code and facts, or its words where it says nothing of the file."""
    known = any(code.partition(".")[0] == refusal.code for code in IMPORT_FAULTS)
    if not known or refusal.code == "told":
        return ImportFault(code="told", facts={"words": refusal.message})
    return ImportFault(code=refusal.code, facts=refusal.facts)
