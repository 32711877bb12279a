"""What a base of an older version calls by other names, so that it is still brought in."""

import json
from collections.abc import Collection, Mapping

TABLES = {"visit_sessions": "begun_visits"}
"""By the name of today: the name before. A base that has a former one is a former base as a whole."""
COLUMNS = {"visit_events": {"begun_id": "session_id"}, "company": {"schools": "practice_options"}}
KINDS = {"otherwise": "deviation", "despite": "override", "took_back": "undo"}
"""Kinds of events, in their column and in what is kept of the steps of a visit."""
_TOLD_IN_JSON = ("steps", "readings", "marks", "body", "acts")


def is_former(names: Collection[str]) -> bool:
    """Whether a base is of a version before the names of today. Parameters: the names of its files."""
    return any(f"tables/{former}.csv" in names for former in TABLES.values())


def header(table: str, columns: list[str]) -> list[str]:
    """The columns of a former table by their names of today."""
    renamed = COLUMNS.get(table.removeprefix("history_of_"), {})
    return [renamed.get(column, column) for column in columns]


def line(table: str, cells: Mapping[str, str]) -> dict[str, str]:
    """A former line in the words of today. Parameters: cells by the columns of today."""
    told = dict(cells)
    if table == "visit_events":
        told["kind"] = KINDS.get(told["kind"], told["kind"])
    if "moved" in told:
        told["moved"] = _reasoned(told["moved"])
    for column in _TOLD_IN_JSON:
        if column in told:
            for was, now in KINDS.items():
                told[column] = told[column].replace(f'"{was}"', f'"{now}"')
            told[column] = told[column].replace('"vessel.', '"expansion_tank.')
    return told


def _reasoned(cell: str) -> str:
    """Why dates moved was kept in words: it stays so. What cannot be read is left for whoever names it."""
    try:
        every = json.loads(cell or "[]")
    except ValueError:
        return cell
    if not isinstance(every, list) or not all(isinstance(one, dict) for one in every):
        return cell
    kept = [{name: value for name, value in one.items() if name != "sentence"} for one in every]
    said = [{"key": "as_told", "figures": {"words": one.get("sentence", "")}} for one in every]
    return json.dumps([{"reasons": [words], **one} for words, one in zip(said, kept, strict=True)])
