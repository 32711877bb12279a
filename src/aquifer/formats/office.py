"""A list as an office keeps it: any usual encoding and separator, a title above its header, blank lines and totals."""

import contextlib
import csv
import io
import re
from collections import Counter
from collections.abc import Iterator

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.csv_table import any_text
from aquifer.formats.opened import sheets_of
from aquifer.formats.said import plainly
from aquifer.formats.sheet import MOST_BYTES, MOST_COLUMNS, MOST_ROWS, Sheet

BEYOND = "more in the row"
"""The column of what stands in a row behind the last that has a name."""
_PLACE = re.compile(r"column \d+")
"""How a column without a name is called."""
_SEPARATORS = (",", ";", "\t", "|")
_LOOKED_AT = 30
"""Rows in which a header is looked for. Assumption: nobody writes a longer title."""
_TOTAL = re.compile(r"^(grand )?(total|totals|summe|gesamt|subtotal)\b|^sum\b(?! ?'?\d)")


def office_sheet(data: bytes, name: str = "") -> Sheet:
    """The header and lines of somebody's own list; columns without a name are called by their place. Of a workbook or
    page the sheet of this name, else the fullest and those that have its columns, as where each route has one.

    Raises: UnreadableTable for what is no table.
    """
    if len(data) > MOST_BYTES:
        size, most = len(data) / 1e6, MOST_BYTES / 1e6
        raise UnreadableTable(f"The file has {size:.0f} MB; at most {most:.0f} MB are read. Split it.")
    candidates = sheets_of(data) or {"": list(_csv_lines(any_text(data)))}
    fullest = name if name in candidates else max(candidates, key=lambda one: _filled(candidates[one]), default="")
    sheet = _sheet(candidates.get(fullest, []))
    others = {} if name in candidates else {one: lines for one, lines in candidates.items() if one != fullest}
    return _with_those_alike(sheet, fullest, len(candidates.get(fullest, [])), others)


def _with_those_alike(sheet: Sheet, name: str, rows: int, others: dict[str, list[tuple[int, list[str]]]]) -> Sheet:
    """A sheet and behind it the rows of the others that have its columns, in whichever order and perhaps one more,
    numbered on: but for an old one, and for one that has rows of those before it, as of another year."""
    lines, parts, names = list(sheet.lines), [(0, name)], [*sheet.header]
    whose = {_whose(cells) for _, cells in lines} if others else set()
    for other, own in {} if _OLD.search(plainly(name)) else others.items():
        with contextlib.suppress(UnreadableTable):
            found = _sheet(own)
            more = list(found.lines)
            again = sum(_whose(cells) in whose for _, cells in more)
            is_more = _are_alike(sheet.header, found.header) and not _OLD.search(plainly(other))
            if is_more and again <= _MOST_AGAIN * len(more):
                names += [one for one in found.header if plainly(one) not in _words(names)]
                lines += [(rows + number, _in_order(found.header, cells, names)) for number, cells in more]
                whose |= {_whose(cells) for _, cells in more}
                parts.append((rows, other))
                rows += len(own)
    if rows > MOST_ROWS:
        raise UnreadableTable(f"The file has more than {MOST_ROWS} rows. Split it.")
    return Sheet(names, _lines(lines, len(names)), sheet.title, tuple(parts) if len(parts) > 1 else ())


def _are_alike(header: list[str], other: list[str]) -> bool:
    """Whether two sheets have the same columns, or nearly all of them; columns without names are alike by their number
    alone."""
    own, others = _words(_own(header)), _words(_own(other))
    shared = {*own} & {*others}
    if all(_PLACE.fullmatch(one) for one in shared):
        return False
    return own == others or len(shared) >= max(_LEAST_ALIKE, _MOSTLY_ALIKE * max(len(own), len(others)))


def _in_order(header: list[str], cells: list[str], names: list[str]) -> list[str]:
    """The cells of a row as another sheet has its columns."""
    told = {plainly(name): cell for name, cell in zip(header, cells, strict=False)}
    return [told.get(plainly(name), "") for name in names]


_LEAST_ALIKE, _MOSTLY_ALIKE = 3, 0.7
"""Columns that two sheets of one list have in common at least, and the share of the wider's. Assumption."""


def _own(header: list[str]) -> list[str]:
    """The columns of a sheet that it names itself."""
    return [name for name in header if name != BEYOND]


_OLD = re.compile(r"\b(old|archiv\w*|former|gone|lost|inactive|deleted|backup|copy|alt|ehemalig\w*|kopie)\b")
"""Names of sheets of what is no longer so."""
_MOST_AGAIN = 0.1
"""Share of a sheet's rows that may stand on another, too: a customer of two routes. Assumption."""


def _whose(cells: list[str]) -> tuple[str, ...]:
    """By what a row is told from others: its first two texts, mostly who and where."""
    return tuple(plainly(cell) for cell in cells if re.search(r"[^\W\d]", cell))[:2]


def _sheet(lines: list[tuple[int, list[str]]]) -> Sheet:
    if not _filled(lines):
        raise UnreadableTable("The file is empty: there is no row with more than one cell.")
    if len(lines) > MOST_ROWS:
        raise UnreadableTable(f"The file has more than {MOST_ROWS} rows. Split it.")
    lines = _of_cards(lines)
    at = _header_of(lines)
    alone = ([cell.strip() for cell in cells if cell.strip()] for _, cells in lines[:at])
    title = next((cells[0] for cells in alone if len(cells) == 1), "")[:160]
    if _has_no_header(lines[at:]):
        header = _names([""] * max(len(cells) for _, cells in lines[at : at + _LOOKED_AT]))
        return Sheet(header, _lines(lines[at:], len(header)), title)
    named, at = _of_two_rows(lines, at)
    header = _names(named)
    width = len(header)
    if width < MOST_COLUMNS and any(any(cell.strip() for cell in cells[width:]) for _, cells in lines[at + 1 :]):
        # A comma too many, or a word beside the table.
        header.append(BEYOND)
    rest, headings = _parted(lines, at)
    told = list(_lines(rest, width := len(header)))
    if headings:
        header.append(HEADING)
        told = [(number, [*cells, headings.get(number, "")]) for number, cells in told]
    if any(_PLACE.fullmatch(name) for name in header[:width]):
        # A column without a name in which nothing stands sets others apart.
        used = {at for _, cells in told for at, cell in enumerate(cells) if cell.strip()}
        kept = [at for at, name in enumerate(header) if at in used or not _PLACE.fullmatch(name)]
        header = [header[at] for at in kept]
        told = [(number, [cells[at] for at in kept]) for number, cells in told]
    return Sheet(header, iter(told), title)


HEADING = "heading above"
"""The column of what stands alone above each part of a list that has its header once more."""


def _parted(lines: list[tuple[int, list[str]]], at: int) -> tuple[list[tuple[int, list[str]]], dict[int, str]]:
    """The rows below a header without where it stands again, and by row what stands alone above its part; none where
    nothing does above a header that stands again."""
    again = _words(lines[at][1])
    above = next((one for _, cells in reversed(lines[:at]) if (one := _alone(cells))), "")
    rest, headings, is_parted = list[tuple[int, list[str]]](), dict[int, str](), False
    for number, cells in lines[at + 1 :]:
        if _words(cells) == again:
            above = ""
            while rest and not any(cell.strip() for cell in rest[-1][1]):
                rest.pop()
            if rest and (found := _alone(rest[-1][1])):
                above, is_parted = found, True
                headings.pop(rest.pop()[0], None)
        else:
            rest.append((number, cells))
            headings[number] = above
    return rest, headings if is_parted else {}


def _alone(cells: list[str]) -> str:
    """What stands in a row of one cell."""
    told = [cell.strip() for cell in cells if cell.strip()]
    return told[0] if len(told) == 1 else ""


_AS_TEXT = re.compile(r'(?m)(^|[,;\t|])="([^"\r\n]*)"(?=[,;\t|\r]|$)')
"""How programs keep a spreadsheet from taking a cell's figures for a number."""


def _csv_lines(text: str) -> Iterator[tuple[int, list[str]]]:
    text = _AS_TEXT.sub(r'\1"\2"', text)
    separator = max(_SEPARATORS, key=lambda one: _even(text, one))
    if _printed(text, separator):
        yield from _by_place(text)
        return
    text = _quoted(text, separator)
    # One quotation mark too many may not swallow the rest of the list.
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=False)
    try:
        yield from enumerate(rows, start=1)
    except csv.Error as error:
        raise UnreadableTable(f"The list cannot be read as CSV: {error}.") from None


def _quoted(text: str, separator: str) -> str:
    """The text with each quotation mark that is all of a cell, the same as above, as a spreadsheet writes it, in rows
    that have as many cells as most without it; where fewer rows than before would be cut as most are, the text as it
    is."""
    lines = text.split("\n")
    counts = Counter(line.count(separator) for line in lines if line.strip())
    usual = counts.most_common(1)[0][0] if counts else 0
    alone = re.compile(rf'(?:^|(?<={re.escape(separator)}))"(?={re.escape(separator)}|\r?$)')
    told = "\n".join(
        alone.sub('""""', line) if '"' in line and usual and line.count(separator) == usual else line for line in lines
    )
    if told == text:
        return text
    before, after = (sum(len(row) - 1 == usual for row in _first_rows(one, separator)) for one in (text, told))
    return told if after >= before else text


_LABEL = re.compile(r"[^\W\d][^:;\d]{0,38}:")
"""A name with a colon, as a card has it before what it tells."""
_UNNAMED = "Notes"
_OF_A_CARD = 0.8
"""Share of the rows that have such a name, above which a file is cards. Assumption."""


def _of_cards(lines: list[tuple[int, list[str]]]) -> list[tuple[int, list[str]]]:
    """The lines of a file that has each customer as a card, a name and what it tells in each row, as a table with a row
    for each card; any other file as it is. What stands in a card without a name is its notes; a name that stands twice
    in a row tells two of the same."""
    told = [(number, [cell.strip() for cell in cells if cell.strip()]) for number, cells in lines]
    told = [(number, cells) for number, cells in told if cells]
    rows = [(number, cells[0].rstrip(":"), cells[1:]) for number, cells in told if _LABEL.fullmatch(cells[0])]
    names = list(dict.fromkeys(name for _, name, _ in rows))
    if len(names) < 2 or len(rows) < _OF_A_CARD * len(told) or len(rows) < 2 * len(names) - 1:
        return lines
    cards: list[tuple[int, dict[str, list[str]]]] = []
    last = ""
    for number, cells in told:
        name, values = (cells[0].rstrip(":"), cells[1:]) if _LABEL.fullmatch(cells[0]) else (_UNNAMED, cells)
        if name != _UNNAMED and (not cards or (name in cards[-1][1] and name != last)):
            cards.append((number, {}))
        if cards:
            cards[-1][1].setdefault(name, []).extend(values)
        last = name
    header = [*names, _UNNAMED] if any(_UNNAMED in card for _, card in cards) else names
    table = [(number, ["; ".join(card.get(name, [])) for name in header]) for number, card in cards]
    return [(rows[0][0], header), *table]


_GAP = re.compile(r"(?<=\S) {2,}(?=\S)")
"""Between the columns of a list that was printed; within a cell stands one blank."""
_WORDS = re.compile(r"\S+(?: \S+)*")
_OF_A_TITLE = 2
"""What a title and a page's number are, and no row."""


def _printed(text: str, separator: str) -> bool:
    """Whether blanks set its columns apart, as in a list that was printed into a file."""
    lines = [line for line in text.splitlines()[:200] if line.strip()]
    gaps = [len(_GAP.findall(line)) for line in lines]
    return 2 * sum(number > 1 for number in gaps) > len(lines) and sum(gaps) > sum(
        line.count(separator) for line in lines
    )


def _by_place(text: str) -> Iterator[tuple[int, list[str]]]:
    """Each line cut where the columns of the widest of the first begin; one that has as many pieces, or is a title, is
    cut between them, however they are set."""
    lines = text.splitlines()
    header = max(lines[:_LOOKED_AT], key=lambda line: len(_GAP.findall(line)), default="")
    starts = [found.start() for found in _WORDS.finditer(header)]
    for number, line in enumerate(lines, start=1):
        pieces = _WORDS.findall(line)
        if len(pieces) != len(starts) and len(pieces) > _OF_A_TITLE:
            pieces = [line[at:until].strip() for at, until in zip(starts, [*starts[1:], len(line)], strict=True)]
        yield number, pieces


def _even(text: str, separator: str) -> float:
    """How well a separator cuts the first rows into as many cells each: by their lines, which a stray quotation mark
    does not join, or by their rows, in which a cell may have several lines."""
    lines = [line for line in text.splitlines()[:200] if line.strip()]
    return max(
        _evenness([line.count(separator) for line in lines]),
        _evenness([len(row) - 1 for row in _first_rows("\n".join(lines), separator)]),
    )


def _evenness(counts: list[int]) -> float:
    if not counts:
        return 0.0
    usual = max(set(counts), key=lambda one: (counts.count(one), one))
    return usual * counts.count(usual) / len(counts)


def _first_rows(text: str, separator: str) -> list[list[str]]:
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    try:
        return [row for row in rows if row]
    except csv.Error:
        return []


def _filled(lines: list[tuple[int, list[str]]]) -> int:
    return sum(sum(1 for cell in cells if cell.strip()) > 1 for _, cells in lines)


def _header_of(lines: list[tuple[int, list[str]]]) -> int:
    """The place of the header: of the first rows the one with most cells that read like names, the first of such."""

    def worth(cells: list[str]) -> float:
        told = [cell.strip() for cell in cells if cell.strip()]
        wordy = Counter(
            cell.lower() for cell in told if re.search(r"[^\W\d]", cell) and not re.search(r"\d{3,}|@", cell)
        )
        # A name may stand of each of two heaters in a header; a mark stands many times in a row.
        return sum(min(number, 2) for number in wordy.values()) if len(told) > 1 else 0.0

    first = lines[:_LOOKED_AT]
    best = max((worth(cells) for _, cells in first), default=0.0)
    # A row of values can be as wordy as its header; the header stands first.
    return next(at for at, (_, cells) in enumerate(first) if worth(cells) >= 0.6 * best)


_VALUE = re.compile(r"\+?[\d\s()./-]*\d[\d\s()./-]*|[^@\s]+@[^@\s]+\.\w+")
"""A figure, a day, a telephone number or an address for mail."""
_NUMBERS_A_COLUMN = re.compile(r"\d{1,2}|(19|20)\d\d")
"""A number or a year, by which columns are called, too."""
DAY = re.compile(r"\d{4}-\d\d?-\d\d?|\d{1,2}[./-]\d{1,2}[./-]\d{2,4}")
"""A whole day, as a cell of its own."""


def _has_no_header(lines: list[tuple[int, list[str]]]) -> bool:
    """Whether the first row is one like those under it: two of its cells are values or one is a day, and so are most
    below them."""
    below = [cells for _, cells in lines[1:_LOOKED_AT]]
    alike = 0
    for at, cell in enumerate(cell.strip() for cell in lines[0][1]):
        told = [cells[at].strip() for cells in below if at < len(cells) and cells[at].strip()]
        mostly = 2 * sum(bool(_VALUE.fullmatch(one)) for one in told) > len(told)
        if told and mostly and _VALUE.fullmatch(cell) and not _NUMBERS_A_COLUMN.fullmatch(cell):
            alike += 2 if DAY.fullmatch(cell) else 1
    return alike > 1


def _of_two_rows(lines: list[tuple[int, list[str]]], at: int) -> tuple[list[str], int]:
    """A header and the place of its last row: where it has two, names of groups over those of columns, what stands
    alone of either, and the group's before a name that several groups have ("Heater 1", "Type")."""
    for upper, lower in ((at - 1, at), (at, at + 1)):
        if upper < 0 or lower >= len(lines):
            continue
        above, below = ([cell.strip() for cell in lines[row][1]] for row in (upper, lower))
        width = max(len(above), len(below))
        above, below = (row + [""] * (width - len(row)) for row in (above, below))
        if _are_groups(above, below, by_worth=lower == at):
            return _joined(above, below), lower
    return lines[at][1], at


def _are_groups(above: list[str], below: list[str], by_worth: bool) -> bool:
    """Whether a row names groups of the columns that the row below it names. Parameters: by_worth, whether it is the
    lower that was found to be the header."""
    groups, names = ([one for one in row if one] for row in (above, below))
    if not all(re.search(r"[^\W\d]", one) for one in [*groups, *names]) or any(re.search(r"\d", one) for one in names):
        # Under a header stand values, and some of them are numbers.
        return False
    pairs = list(zip(above, below, strict=True))
    fills, left = (
        sum(1 for over, name in pairs if name and not over),
        sum(1 for over, name in pairs if over and not name),
    )
    repeats = _repeated(below)
    if not by_worth:
        # A customer of whom hardly anything is known is no second row of names.
        return len(groups) > 1 and fills > 1 and bool(repeats)
    # Over a header stands a title, of which nothing is wanted.
    return len(groups) > 1 and fills > 0 and bool(left or repeats)


def _repeated(names: list[str]) -> set[str]:
    low = [one.lower() for one in names]
    return {one for one in low if one and low.count(one) > 1}


_SAYS_LITTLE = {
    "date", "day", "when", "on", "found", "finding", "changed", "replaced", "done", "result", "status", "condition",
    "by",
    "no", "nr", "number", "#", "datum", "am", "ersetzt", "befund", "zustand", "fait", "remplace", "etat",
}  # fmt: skip
"""Names that say nothing without that of their group."""


def _joined(above: list[str], below: list[str]) -> list[str]:
    repeats, joined, group = _repeated(below), [], ""
    for over, name in zip(above, below, strict=True):
        group = over or (group if name else "")
        is_of_group = name.lower() in repeats or (name and plainly(name) in _SAYS_LITTLE)
        joined.append(f"{group} {name}".strip() if is_of_group else name or over)
    return joined


def _names(cells: list[str]) -> list[str]:
    names: list[str] = []
    kept = list(cells)
    while any(kept) and not kept[-1].strip():
        kept.pop()
    if len(kept) > MOST_COLUMNS:
        raise UnreadableTable(f"The file has {len(kept)} columns; at most {MOST_COLUMNS} are read.")
    for at, cell in enumerate(kept, start=1):
        name = re.sub(r"\s+", " ", cell).strip()[:120] or f"column {at}"
        twice, number = name, 2
        while twice.lower() in (one.lower() for one in names):
            twice, number = f"{name} ({number})", number + 1
        names.append(twice)
    return names


def _words(cells: list[str]) -> list[str]:
    return [plainly(cell) for cell in cells if cell.strip()]


def _lines(lines: list[tuple[int, list[str]]], width: int) -> Iterator[tuple[int, list[str]]]:
    for number, cells in lines:
        if any(cell.strip() for cell in cells) and not all(_RULE.fullmatch(cell.strip()) for cell in cells):
            if any(cell.strip() for cell in cells[width:]):
                # All that there is no column for stands in the last.
                cells = [*cells[: width - 1], ", ".join(cell.strip() for cell in cells[width - 1 :] if cell.strip())]
            yield number, [*cells[:width], *[""] * (width - len(cells))]


_RULE = re.compile(r"([-=_*:]{3,})?")
"""A cell of a line that is drawn across a table."""


def is_total(cells: list[str]) -> bool:
    """Whether a row adds up the others."""
    return any(_TOTAL.match(plainly(cell)) for cell in cells if cell.strip())
