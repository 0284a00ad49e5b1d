"""A table over a list."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from uvarovite.core.inlay import plain
from uvarovite.core.inlay.program import Fixed, Op, Program
from uvarovite.core.messages.blocks.block import (
    BlockBase,
    PartKind,
    Seat,
    WrittenPart,
)
from uvarovite.core.messages.blocks.paragraph import Paragraph
from uvarovite.core.messages.build import IN_LINE, Build, where_any
from uvarovite.core.messages.passages import Part, Words


class TableColumn(Part):
    """A column: what stands above it, in each row and, if anything, in the row of totals; each a line with inlays."""

    title: str = Field(default="", max_length=200)
    value: str = Field(max_length=1_000)
    total: str = Field(default="", max_length=1_000)
    align: Literal["start", "end"] = "start"


class Table(BlockBase):
    """A row for each record of a list, called `variable`; `otherwise` are words for whoever has none."""

    kind: Literal["table"] = "table"
    variable: str = Field(max_length=63)
    listed: str = Field(max_length=63)
    order: str = Field(default="", max_length=63)
    columns: tuple[TableColumn, ...] = Field(min_length=1, max_length=8)
    otherwise: Words = ()

    def _cells(self, build: Build, tag: str, name: str, sources: list[str], style: str) -> Program:
        program: list[Op] = [Fixed(text="<tr>")]
        for place, (column, source) in enumerate(zip(self.columns, sources, strict=True), 1):
            gap = 0 if place == len(self.columns) else 8
            align = "right" if column.align == "end" else "left"
            scope = ' scope="col"' if tag == "th" else ""
            look = f"{build.theme.type(15, bottom=0)};padding:6px {gap}px 6px 0;text-align:{align};{style}"
            program += [
                Fixed(text=f'<{tag}{scope} class="ink rule" align="{align}" style="{look}">'),
                *build.line(source, part=f"columns.{place - 1}.{name}"),
                Fixed(text=f"</{tag}>"),
            ]
        return (*program, Fixed(text="</tr>\n"))

    def as_html(self, build: Build) -> Program:
        rule = f"border-bottom:1px solid {build.theme.rule}"
        titles = [column.title for column in self.columns]
        totals = [column.total for column in self.columns]
        rows = self._cells(
            build.each(self.variable, self.listed), "td", "value", [column.value for column in self.columns], rule
        )
        table: list[Op] = [Fixed(text='<table width="100%" cellspacing="0" cellpadding="0" style="margin:0 0 14px">\n')]
        if any(titles):
            table += self._cells(build, "th", "title", titles, f"{rule};font-weight:normal")
        table.append(build.repeat(self.variable, self.listed, self.order, rows))
        if any(totals):
            table += self._cells(build, "td", "total", totals, "font-weight:bold")
        table.append(Fixed(text="</table>"))
        none = Paragraph(text=self.otherwise).as_html(build) if self.otherwise else ()
        return (build.where_some(self.listed, tuple(table), none),)

    def _line(self, build: Build, sources: list[str]) -> Program:
        program: list[Op] = []
        for source in filter(None, sources):
            before = (Fixed(text=" · "),) if program else ()
            program += where_any(build.line(source, IN_LINE), before=before, behind=(), read=plain)
        return (*program, Fixed(text="\n"))

    def as_text(self, build: Build) -> Program:
        titles = [column.title for column in self.columns]
        totals = [column.total for column in self.columns]
        rows = self._line(build.each(self.variable, self.listed), [column.value for column in self.columns])
        table = (
            *(self._line(build, titles) if any(titles) else ()),
            build.repeat(self.variable, self.listed, self.order, rows),
            *(self._line(build, totals) if any(totals) else ()),
            Fixed(text="\n"),
        )
        none = Paragraph(text=self.otherwise).as_text(build) if self.otherwise else ()
        return (build.where_some(self.listed, table, none),)

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        yield seat.list_part(self.variable, self.listed, self.order)
        within, there = seat.each(self.variable, self.listed), seat.for_some()
        for place, column in enumerate(self.columns):
            for name, source, where in (
                ("title", column.title, there),
                ("value", column.value, within),
                ("total", column.total, there),
            ):
                if source and where:
                    yield where.part(f"columns.{place}.{name}", PartKind.LINE, source)
        if self.otherwise:
            yield from there.words("otherwise", self.otherwise)
