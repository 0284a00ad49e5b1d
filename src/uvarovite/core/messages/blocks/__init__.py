"""The kinds of blocks that a message is made of, a file each."""

from uvarovite.core.messages.blocks.block import (
    MOST_BLOCKS,
    BlockBase,
    PartKind,
    PartProblem,
    Seat,
    WrittenPart,
    part_problem,
)
from uvarovite.core.messages.blocks.button import Button
from uvarovite.core.messages.blocks.buttons import Buttons
from uvarovite.core.messages.blocks.divider import Divider
from uvarovite.core.messages.blocks.heading import Heading
from uvarovite.core.messages.blocks.html import LONGEST_HTML, Html
from uvarovite.core.messages.blocks.listing import Listing
from uvarovite.core.messages.blocks.nesting import Arm, Block, Columns, ForEach, Only, Shared
from uvarovite.core.messages.blocks.paragraph import Paragraph
from uvarovite.core.messages.blocks.picture import Picture
from uvarovite.core.messages.blocks.space import Space
from uvarovite.core.messages.blocks.table import Table, TableColumn

__all__ = [
    "LONGEST_HTML", "MOST_BLOCKS", "Arm", "Block", "BlockBase", "Button", "Buttons", "Columns", "Divider", "ForEach", "Heading", "Html", "Listing", "Only",
    "Paragraph", "PartKind", "PartProblem", "Picture", "Seat", "Shared", "Space", "Table", "TableColumn", "WrittenPart", "part_problem",
]  # fmt: skip
