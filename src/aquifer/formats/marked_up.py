"""Tables from a page or an XML workbook: what many programs call their export to a spreadsheet, whatever its name ends
with.

Sources: HTML, living standard, section 4.9; the XML spreadsheet of 2002, whose rows and cells are called so.
"""

import re
from collections.abc import Iterator
from html import unescape

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.sheet import MOST_COLUMNS, MOST_ROWS

_BEGINS = re.compile(
    r"(?:<[?!][^>]*>|\s)*<(?:html|table|head|meta|(?:ss:)?workbook)\b",
    re.IGNORECASE,
)
_ROWS, _CELLS = {"tr", "row"}, {"td", "th", "cell"}
_WIDEST = MOST_COLUMNS + 1
_TAG = re.compile(r"<(/?)([a-zA-Z][\w:.-]{0,40})([^<>]*)>")
"""A tag, in one look each: the library's parser of pages looks again from each that never ends, for hours of a bad
file, and stops at some of them."""
_SAID = re.compile(r"([\w:-]+)\s*=\s*(\"[^\"]*\"|'[^']*'|[^\s\"'>]+)")
_MOST_TABLES = 5000
"""Of a page, laid out by tables within tables. Assumption."""
_LONGEST_TAG = 2000
"""Letters of what a tag says that are read. Assumption."""


def is_marked_up(text: str) -> bool:
    """Whether a text is a page or an XML workbook, and no list of separated cells."""
    return bool(_BEGINS.match(text[:4000]))


def marked_lines(text: str) -> dict[str, list[tuple[int, list[str]]]]:
    """The rows of each table, numbered, by its sheet's name or its place on the page.

    Raises: UnreadableTable for a page of nothing but tables.
    """
    tables = _Tables()
    until = 0
    text = _without_comments(text)
    for tag in _TAG.finditer(text):
        tables.text(unescape(text[until : tag.start()]))
        name, said = tag[2].lower().removeprefix("ss:"), tag[3][:_LONGEST_TAG]
        if tag[1]:
            tables.end(name)
        else:
            tables.begin(
                name, {one[1].lower().removeprefix("ss:"): one[2].strip("\"'") for one in _SAID.finditer(said)}
            )
            if said.endswith("/") and name != "br":
                tables.end(name)
        until = tag.end()
    tables.text(unescape(text[until:]))
    tables.close()
    return {
        table.name or f"table {place}": table.lines for place, table in enumerate(tables.found, start=1) if table.lines
    }


class _Table:
    def __init__(self, name: str) -> None:
        self.name = name
        self.lines: list[tuple[int, list[str]]] = []
        self.number = 0
        self._cells: list[str] = []
        self._below: dict[int, int] = {}
        """For how many rows yet a cell of a row above reaches into this column."""
        self.text: list[str] | None = None
        """Of the cell that is open."""
        self.is_day = False
        self._wide = self._high = 1

    def row(self, number: int | None) -> None:
        self.end_row()
        self.number = number or self.number + 1
        self._cells = []

    def cell(self, place: int | None, wide: int, high: int) -> None:
        self.end_cell()
        while self._below.get(len(self._cells), 0) and len(self._cells) < _WIDEST:
            self._below[len(self._cells)] -= 1
            self._cells.append("")
        if place:
            self._cells += [""] * (min(place, _WIDEST) - 1 - len(self._cells))
        self.text, self._wide, self._high = [], max(1, min(wide, _WIDEST)), max(1, high)

    def end_cell(self) -> None:
        if self.text is None:
            return
        said = re.sub(r"[^\S\n]+", " ", "".join(self.text)).strip()
        if self.is_day:
            said = said.partition("T")[0]
        for column in range(len(self._cells), len(self._cells) + self._wide):
            if self._high > 1:
                self._below[column] = self._high - 1
        self._cells += [said, *[""] * (self._wide - 1)][: max(0, _WIDEST - len(self._cells))]
        self.text, self.is_day = None, False

    def end_row(self) -> None:
        self.end_cell()
        if any(self._cells) and len(self.lines) <= MOST_ROWS:
            self.lines.append((self.number, self._cells[:_WIDEST]))
        self._cells = []


class _Tables:
    """Each table on its own, one within a cell of another, too: pages are laid out by tables."""

    def __init__(self) -> None:
        self.found: list[_Table] = []
        self._open: list[_Table] = []
        self._sheet = ""

    def begin(self, tag: str, said: dict[str, str]) -> None:
        if tag == "worksheet":
            self._sheet = unescape(said.get("name", ""))
        elif tag == "table":
            if len(self.found) >= _MOST_TABLES:
                raise UnreadableTable(f"The page has more than {_MOST_TABLES} tables. Send the list itself, as CSV.")
            self._open.append(_Table(self._sheet))
            self.found.append(self._open[-1])
        for table in self._innermost():
            if tag in _ROWS:
                table.row(_whole(said.get("index")))
            elif tag in _CELLS:
                wide = _whole(said.get("colspan")) or (_whole(said.get("mergeacross")) or 0) + 1
                high = _whole(said.get("rowspan")) or (_whole(said.get("mergedown")) or 0) + 1
                table.cell(_whole(said.get("index")), wide, high)
            elif tag == "data":
                table.is_day = said.get("type", "").lower() == "datetime"
            elif tag in ("br", "p", "div") and table.text:
                table.text.append("\n")

    def end(self, tag: str) -> None:
        for table in self._innermost():
            if tag in _CELLS:
                table.end_cell()
            elif tag in _ROWS or tag == "table":
                table.end_row()
        if tag == "table" and self._open:
            self._open.pop()

    def close(self) -> None:
        """A page that breaks off has what it had until then."""
        while self._open:
            self.end("table")

    def text(self, between: str) -> None:
        for table in self._innermost():
            if table.text is not None:
                table.text.append(re.sub(r"\s+", " ", between))

    def _innermost(self) -> Iterator[_Table]:
        yield from self._open[-1:]


def _without_comments(text: str) -> str:
    first, *rest = text.split("<!--")
    return first + "".join(piece.partition("-->")[2] for piece in rest)


def _whole(text: str | None) -> int | None:
    return int(text) if text and re.fullmatch(r"\d{1,6}", text) else None
