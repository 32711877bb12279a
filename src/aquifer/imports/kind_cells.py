"""A cell that says which kind a heater is of, and what people write beside it: how many, how large, since when."""

import contextlib
import re
from dataclasses import replace

from aquifer.core.kinds import HeaterKind
from aquifer.formats import day_said, heater_said, said
from aquifer.formats.cells import BadCell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import UNKNOWN, Entry, How
from aquifer.imports.figure_cells import read_figure, read_input


def read_kinds(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    """Keep the kind that a cell says, and of several heaters in it each with its own. Raises: BadCell."""
    plain = said.plainly(text)
    if _OTHER_MACHINE.match(plain) or (_NO_HEATER.fullmatch(plain) and not heater_said.kind(text)):
        entry.cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
        return
    first, *others = [_IN_DASHES.sub(_without_dashes, one) for one in _each_heater(text)]
    _read_kind(entry, name, match, first, how)
    for other in others:
        entry.of_one_cell.append(Entry(entry.number))
        _read_kind(entry.of_one_cell[-1], name, match, other, how)
    last = entry.of_one_cell[-1] if others else entry
    if re.search(r"\b(both|all|each|beide|alle)\b[^,;]*\d{4}", text) and "installed" in last.cells:
        # Said behind the last of them.
        for of in (entry, *entry.of_one_cell):
            of.cells.setdefault("installed", last.cells["installed"])
    entry.others += entry.of_one_cell


def with_build(pieces: list[tuple[str, Matched, str]]) -> list[tuple[str, Matched, str]]:
    """What columns say of a heater's kind; how it is built by the column of its model counts where they tell a tank, or
    nothing, as a column of fuels does. Parameters: by column its name, match and cell."""
    own = [piece for piece in pieces if piece[1].column == "kind"]
    builds = [(name, Matched("kind"), build) for name, match, build in pieces if match.column != "kind"]
    told = [heater_said.kind(heater_said.as_meant(name, text)) for name, _, text in own]
    is_built_so = any(one and one.kind not in _BURNS_OR_GLOWS for one in told)
    return own if is_built_so else [*own, *builds]


_BURNS_OR_GLOWS = {HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK}
"""What a fuel alone is read as."""


def whole_kind(pieces: list[tuple[str, Matched, str]]) -> tuple[str, Matched, str]:
    """What several columns say together of a heater's kind, as one of its type and one of its fuel; what a person said
    that a word means counts before what all of them are like. Parameters: by column its name, match and cell."""
    name, match, text = pieces[0]
    if len(pieces) == 1:
        return pieces[0]
    text = " ".join(cell for _, _, cell in pieces)
    said_alone = [found for _, _, cell in pieces if (found := heater_said.kind(cell))]
    guess, means = heater_said.kind(text) or next(iter(said_alone), None), ""
    for _, own, cell in pieces:
        word, alone = own.words.get(said.plainly(cell), ""), heater_said.kind(cell)
        if word and word != (alone.kind if alone else UNKNOWN):
            means = means or word
    means = means or (guess.kind if guess else UNKNOWN if match.words else "")
    return name, replace(match, words={said.plainly(text): means} if means else {}), text


def _read_kind(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    means = match.words.get(said.plainly(text), "")
    guess = heater_said.kind(heater_said.as_meant(name, text))
    if means == UNKNOWN or (not means and guess is None):
        noted = len(entry.notes)
        _read_beside_kind(entry, name, text, how)
        if len(entry.notes) == noted:
            entry.notes.append(f"{name}: {text}")
        return
    kind = entry.cells["kind"] = HeaterKind(means) if means else guess.kind  # type: ignore[union-attr]
    entry.cells["vent"] = guess.vent if guess and guess.kind == kind else ""
    _read_beside_kind(entry, name, text, how)


def _each_heater(text: str) -> list[str]:
    """What a cell says of each of several heaters, each with its own kind and size; else the cell as it is."""
    placed = re.split(r"(?<=\))\s*(?:[,;+&]|\band\b|\bund\b)\s*", text)
    if len(placed) > 1 and all(part.endswith(")") and heater_said.kind(part) for part in placed):
        # "gas (sanctuary), electric (kitchen)"
        return placed
    for between in (r"\s*[;\n]\s*", r"\s+/\s+", r"\s*(?:\+|&|\band\b|\bund\b)\s*", r"\s*,\s*"):
        parts = re.split(between, text)
        if len(parts) > 1 and all(heater_said.kind(part) and _has_size(part) for part in parts):
            return parts
    return [text]


def _has_size(text: str) -> bool:
    """Whether a piece tells a heater of its own: by its size, or that it needs none."""
    found = heater_said.kind(text)
    return bool(_SIZE_BESIDE.search(text) or _SIZE_AT_FUEL.search(text) or (found and not found.kind.is_tank))


_IN_DASHES = re.compile(
    r"(?<![\w-])[A-Za-z]{1,6}(?: [A-Za-z]{1,4})?(?:-\d{1,3})?-(?:(?:19|20)\d\d|\?+|unk)(?:-[^\s-]+)?", re.I
)
"""Fuel, size, year and make with nothing but dashes between: "NG-50-2015-Thornfell"."""


def _without_dashes(found: re.Match[str]) -> str:
    return found[0].replace("-", " ")


_OTHER_MACHINE = re.compile(
    r"(a/c|ac unit|air (cond|handler)\w*|condenser|chiller|furnace|rtu|ice machine|compressor)\b"
)
"""What a building has besides, whatever feeds it."""
_NO_HEATER = re.compile(
    r"(removed|taken out|scrapped|decommissioned|no (water )?heater|no wh|none there|ausgebaut|entfernt|"
    r"(water )?(softener|filter)|(sump|well) pump|furnace|entharter|enthartungsanlage)\b.*"
)
_SIZE_BESIDE = re.compile(
    r"(?:\d{1,2} ?[x×] ?)?\d+(?:[.,]\d+)? ?(?:us )?(?:gal(?:lon)?s?|g|l|ltr?s?|lit(?:er|re)s?|litros|litri)\b|"
    r"\b[1-9] ?[x×] ?\d{2,3}\b",
    re.IGNORECASE,
)
_DONE_BESIDE = tuple(
    (re.compile(rf"\b(?:{what})\b[^,;\d]{{0,12}}((?<!\d)(?:19[5-9]|20[0-4])\d(?!\d)|'\d\d)", re.IGNORECASE), of)
    for what, of in (
        (r"t ?[&+/]? ?p|tprv?|relief(?: valve)?", "relief_valve"), (r"anode|rod", "anode"),
        (r"flush(?:ed)?|descaled?", "last_flush"),
    )
)  # fmt: skip
"""What is said with the kind of when something was done, and what of."""
_MANY = re.compile(
    r"^\(?([1-9])\)? ?(?:(?<=\)) ?(?=\d|(?:ng|lp|gas|elec\w*|hp|hpwh)\b)|"
    r"- ?(?=\d)|[x×@] ?(?=\d|[a-z])|(?=[a-z]+ \d{2,3}s\b)|"
    r"(?<!\))(?= (?:(?:small|kleine|petits?|petites) |"
    r"(?:[a-z]+-)?\w*boilers?|\w*speicher|(?:\w+-)?ger[aä]te|heaters?|tanks?|units?|tankless|wall|water heaters?|"
    r"ballons|cumulus|"
    r"[a-z]+ (?:tanks|heaters|units|boilers))\b))|"
    r"^([1-9]\d) (?=(?:cumulus|ballons|boilers|tanks|heaters|units|speicher|water heaters|chauffe-eau)\b)|"
    r"^([1-9]) ?(?:no|off|stc?k|st(?:ü|ue?)ck)\b\.? ?(?=\d|[a-z])|"
    r", ?([2-9]) ?(?:stc?k|st(?:ü|ue?)ck)\b\.?$|\bx ?([2-9])(?= ?\()|"
    r"(?:\bx ?|\(x?)([2-9])x?\)?$|\(x ?([2-9])\b[^()]*\)|\bx([2-9])(?=,? (?:[a-z]|'|19|20))",
    re.IGNORECASE,
)
"""How many heaters of a kind there are: "2 - 100 gal gas", "tankless x 3"."""
_ELEMENTS = re.compile(
    r"\(?\b(?:imm\w*|elements?|heizst\w*)\.? ?x ?\d\)?|\b\d ?x? ?(?:imm\b|immersions?|elements?)", re.IGNORECASE
)
"""How many elements a tank has."""
_FUEL = r"(?:ng|lp|gas|propane|e|el|elec|electric|hp|hpwh|hybrid|indirect)\b"
_SIZE_AT_FUEL = re.compile(
    rf"\b(\d{{2,3}})[ -]?(?={_FUEL})|\b{_FUEL}[ -](\d{{2,3}})(?!\d| ?k)|\b(?:g|ng|lp|e|hp)-?(\d{{2,3}})\b",
    re.IGNORECASE,
)
_LITRES_AT_TANK = re.compile(
    r"(?:boiler|speicher)(?: (?:a|\u00e0|je|zu))?[ -](\d{2,4})\b(?! ?k?w)(?<!19\d\d)(?<!20\d\d)", re.IGNORECASE
)
"""Where tanks are called so, they are told in litres."""
_INPUT_BESIDE = re.compile(r"(?<![\d.,/])\d{1,3}(?:[.,]\d{1,3})? ?(?:k(?: ?btuh?)?|mbh|k?btuh?|kw)\b", re.IGNORECASE)
_YEAR_BESIDE = re.compile(r"\(?(?<![\w-])(?:(?:19[5-9]|20[0-4])\d(?:-(?:19[5-9]|20[0-4])\d)?|'\d\d)(?![\w-])\)?")
_UNIT_NAMED = re.compile(r"\b(?:l|liter|litres?|gal)\b")
_BARE_SIZE = re.compile(r"(?<![\d.,x\u00d7-])(?!(?:19|20)\d\d\b)\d{2,4}(?![\d.,]*(?:\d| ?(?:k|w|x|\u00d7|%)))")
"""A figure without a unit, where the column's name says in which sizes are told."""


def _is_all_of_them(entry: Entry, name: str, how: How, text: str, together: re.Match[str]) -> bool:
    """Whether a column of its own has the size of several together, each of which is told with the kind; then each has
    its own."""
    one = Entry(entry.number)
    with contextlib.suppress(BadCell):
        read_figure(one, name, Matched("size"), text, how)
    size, whole, count = one.said("size"), entry.said("size"), int(next(filter(None, together.groups())))
    if not size or not whole or abs(count * size - whole) > 0.02 * whole:
        return False
    entry.cells |= {"size": size, "count": count}
    return True


def _read_beside_kind(entry: Entry, name: str, text: str, how: How) -> None:
    """What is said in one cell with the kind: how many, the size, the year, and whatever else as a note."""
    # Two elements are those of one tank.
    many = _MANY.search(_ELEMENTS.sub("", text))
    if many:
        entry.cells.setdefault("count", int(next(filter(None, many.groups()))))
    size, at_fuel = _SIZE_BESIDE.search(text), _SIZE_AT_FUEL.search(text)
    if size and at_fuel and at_fuel.end() <= size.start():
        # Of two the first is told with its fuel, and of the other nothing more.
        size = None
    together = re.match(r"([2-9]) ?[x×] ?(\d+)", size[0], re.IGNORECASE) if size else None
    if together and size and _is_all_of_them(entry, name, how, size[0], together):
        pass
    elif size and many and "size" in entry.cells:
        _is_all_of_them(entry, name, how, size[0], many)
    elif size and "size" not in entry.cells:
        read_figure(entry, name, Matched("size"), size[0], how)
    elif "size" not in entry.cells and (size := at_fuel):
        read_figure(entry, name, Matched("size"), size[1] or size[2] or size[3], how)
    elif "size" not in entry.cells and (size := _LITRES_AT_TANK.search(text)):
        read_figure(entry, name, Matched("size"), f"{size[1]} l", how)
    elif (
        "size" not in entry.cells
        and (unit := _UNIT_NAMED.search(said.plainly(name)))
        and (size := _BARE_SIZE.search(text))
    ):
        with contextlib.suppress(BadCell):
            read_figure(entry, name, Matched("size"), f"{size[0]} {unit[0]}", how)
    whole = text
    for like, of in _DONE_BESIDE:
        if done := like.search(text):
            text = text.replace(done[0], " ")
            when = day_said.day(done[1], how.today, how.day_first)
            entry.cells.setdefault(of, heater_said.RodSaid(fitted_on=when.on) if of == "anode" else when)
    if power := _INPUT_BESIDE.search(text):
        with contextlib.suppress(BadCell):
            read_input(Entry(0, entry.cells), name, Matched("input"), power[0])
    year = _YEAR_BESIDE.search(text)
    put_in = entry.said("installed")
    if year and not (put_in and put_in.on):
        entry.cells["installed"] = day_said.day(year[0].strip("()"), how.today, how.day_first)
    rest = text
    for found in (size, year, many, power):
        rest = rest.replace(found[0], " ") if found else rest
    if text != whole or not heater_said.is_kind_alone(rest):
        entry.notes.append(f"{name}: {whole[:120]}")
