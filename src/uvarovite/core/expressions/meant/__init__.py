"""What somebody meant who wrote criteria in their own way: the tree that says it, or nothing.

The criteria's own parser takes one form of everything and stops at the first fault. This one reads what people really
write (`city = Skarn or Marlby`, `pledge > €50`, `renews on in the next 30 days`), by tables of phrases with one meaning
each. It is never run in the place of the parser: what it finds is shown, checked like anything else, and taken by hand.
Where two things could be meant (03/04/2026, 1,000 without a style, `is "A" and "B"`), it finds nothing.
"""

from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions.check import check_criteria
from uvarovite.core.expressions.meant.pieces import Unclear
from uvarovite.core.expressions.meant.reader import CriteriaReader
from uvarovite.core.expressions.names import Names
from uvarovite.core.expressions.parse import LONGEST_CRITERIA
from uvarovite.core.expressions.printing import print_criteria

__all__ = ["meant_criteria"]


def meant_criteria(
    text: str, fields: FieldMap, names: Names | None = None, *, decimal_comma: bool | None = None
) -> str | None:
    """The criteria that say what was written, checked; None where nothing or several things could be meant.

    `decimal_comma` is the organisation's style of numbers.
    """
    if len(text) > LONGEST_CRITERIA:
        return None
    try:
        node = CriteriaReader(text, fields, names or Names(), decimal_comma).whole()
    except (Unclear, RecursionError):
        return None
    if check_criteria(node, fields, names):
        return None
    found = print_criteria(node)
    return found if found != text else None
