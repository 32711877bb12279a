"""The page that says when each part of the long check ran last, and how it ended.

    python scripts/long_check.py PAGE COMMIT CORES ROW...

A row is "name|result|minutes"; what did not run this time keeps its row.
"""

import datetime
import sys
from pathlib import Path

HEAD = """# The last long check

`./check --long` with all its parts, or some of them: random walks and requests by the thousand, the same tests at other
hours and days, and whether the tests notice a change. Each row says when it ran last. Minutes by the clock.

| part | result | min | on | commit | cores |
|---|---|---|---|---|---|
"""


def rows(page: str) -> dict[str, str]:
    """The rows of a page, by the name of their part."""
    lines = [line for line in page.splitlines() if line.startswith("| ") and not line.startswith("| part")]
    return {line.split("|")[1].strip(): line for line in lines}


def renewed(page: str, told: list[str], commit: str, cores: str, today: datetime.date) -> str:
    """The page with the rows of a run. Parameters: told, "name|result|minutes" of each of its parts."""
    kept = rows(page)
    for one in told:
        name, result, minutes = one.split("|")
        kept[name] = f"| {name} | {result} | {minutes} | {today:%d %B %Y} | {commit} | {cores} |"
    return HEAD + "\n".join(kept.values()) + "\n"


if __name__ == "__main__":
    path, commit, cores, *told = sys.argv[1:]
    page = Path(path)
    page.write_text(renewed(page.read_text() if page.exists() else "", told, commit, cores, datetime.date.today()))
