"""All kinds of blocks."""

from typing import Annotated

from pydantic import Field

from uvarovite.core.messages.blocks.button import Button
from uvarovite.core.messages.blocks.buttons import Buttons
from uvarovite.core.messages.blocks.columns import Columns
from uvarovite.core.messages.blocks.divider import Divider
from uvarovite.core.messages.blocks.each import ForEach
from uvarovite.core.messages.blocks.heading import Heading
from uvarovite.core.messages.blocks.listing import Listing
from uvarovite.core.messages.blocks.only import Arm, Only
from uvarovite.core.messages.blocks.paragraph import Paragraph
from uvarovite.core.messages.blocks.picture import Picture
from uvarovite.core.messages.blocks.space import Space
from uvarovite.core.messages.blocks.table import Table

Block = Annotated[
    Heading | Paragraph | Listing | Button | Buttons | Picture | Columns | Table | Only | ForEach | Divider | Space,
    Field(discriminator="kind"),
]

# Those that hold blocks know the kinds only now.
for _kind in (Columns, Arm, Only, ForEach):
    _kind.model_rebuild(_types_namespace={"Block": Block})
