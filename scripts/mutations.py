"""Do the tests bite? One change at a time is made to the code, and a folder's own tests are to notice it.

    python scripts/mutations.py --seed N [--changes N] [--skip N] [--folder core ...] [--record docs/mutations.md]

Drawn by the seed, so that nobody chooses what is tried. Everything happens in a copy of the last commit. What was not
noticed can be judged in the record: a line that ends in "(equivalent: why)" stays as it is and is counted beside.
"""

import argparse
import ast
import copy
import datetime
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
FOLDERS = ("core", "visiting", "visits", "rounds", "imports", "outbox", "forecasts")
TESTS = {"visiting": "visits"}
"""Where a folder's tests lie under another name."""
LONGEST_S = 600
PURE = ("-p", "no:django", "-p", "no:schemathesis", "-W", "ignore::pytest.PytestConfigWarning")
COMPARED = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
RECKONED = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult}


@dataclass(frozen=True)
class Change:
    """One change to one file, by the place of its node in the order of a walk."""

    file: str
    line: int
    node: int
    says: str


def changes(source: str, file: str = "") -> list[Change]:
    """Every change that can be made to a module: an operator, a bound, a yes or no, a figure, a guard."""
    return [Change(file, line, number, says) for number, line, says, _ in _points(ast.parse(source))]


def changed(source: str, change: Change) -> str:
    """The module with that change in it. Raises: KeyError if it has no such place."""
    tree = ast.parse(source)
    for number, _, _, apply in _points(tree):
        if number == change.node:
            apply()
            return ast.unparse(ast.fix_missing_locations(tree))
    raise KeyError(change.node)


def _points(tree: ast.Module) -> Iterator[tuple[int, int, str, Callable[[], None]]]:
    shown = {id(one) for node in ast.walk(tree) for one in _told(node)}
    for number, node in enumerate(ast.walk(tree)):
        if id(node) in shown:
            continue
        line = getattr(node, "lineno", 0)
        for says, apply in _of(node):
            yield number, line, says, apply


def _told(node: ast.AST) -> Iterator[ast.AST]:
    """What says something to people or to the type checker alone."""
    for name in ("annotation", "returns"):
        if (told := getattr(node, name, None)) is not None:
            yield from ast.walk(told)
    if isinstance(node, ast.Raise | ast.Assert | ast.JoinedStr):
        yield from list(ast.walk(node))[1:]
    if isinstance(node, ast.FunctionDef | ast.ClassDef):
        for decorator in node.decorator_list:
            yield from ast.walk(decorator)


def _of(node: ast.AST) -> Iterator[tuple[str, Callable[[], None]]]:
    def put(name: str, value: object) -> Callable[[], None]:
        return lambda: setattr(node, name, value)

    if isinstance(node, ast.Compare) and len(node.ops) == 1 and (other := COMPARED.get(type(node.ops[0]))):
        yield f"{type(node.ops[0]).__name__} to {other.__name__}", put("ops", [other()])
    elif isinstance(node, ast.BinOp) and (other := RECKONED.get(type(node.op))):
        if not isinstance(node.left, ast.Constant | ast.JoinedStr) or isinstance(node.left.value, int | float):
            yield f"{type(node.op).__name__} to {other.__name__}", put("op", other())
    elif isinstance(node, ast.BoolOp):
        other = ast.Or if isinstance(node.op, ast.And) else ast.And
        yield f"{type(node.op).__name__} to {other.__name__}", put("op", other())
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield f"{node.value} to {not node.value}", put("value", not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        yield f"{node.value} to {node.value + 1}", put("value", node.value + 1)
    elif isinstance(node, ast.If) and not node.orelse:
        yield "the guard is left out", put("test", ast.Constant(value=False))
    elif isinstance(node, ast.IfExp):
        yield "the other branch", put("test", ast.UnaryOp(op=ast.Not(), operand=copy.deepcopy(node.test)))


def drawn(seed: int, folders: tuple[str, ...], number: int) -> list[Change]:
    """So many changes, each of all that there are as likely. Parameters: seed; names of folders in src/aquifer."""
    every = []
    for folder in folders:
        for path in sorted((ROOT / "src" / "aquifer" / folder).rglob("*.py")):
            if "migrations" not in path.parts:
                every += changes(path.read_text(), path.relative_to(ROOT).as_posix())
    return random.Random(seed).sample(every, min(number, len(every)))


def noticed(there: Path, change: Change) -> bool:
    """Whether the folder's tests fail with it; what never ends is noticed too."""
    path = there / change.file
    before = path.read_text()
    folder = Path(change.file).parts[2]
    files = _likeliest(there / "tests" / TESTS.get(folder, folder), path.stem)
    words = ["-x", "-q", *(PURE if folder == "core" else ()), *files]
    try:
        path.write_text(changed(before, change))
        ran = subprocess.run(
            [sys.executable, "-m", "pytest", *words], cwd=there, capture_output=True, timeout=LONGEST_S,
            env={**os.environ, "PYTHONPATH": str(there / "src"), "PYTHONDONTWRITEBYTECODE": "1"},
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(before)
    return ran.returncode != 0


def _likeliest(tests: Path, module: str) -> list[str]:
    """A folder's test files, those first that are called like a module or speak of it: the run ends at the first
    failure."""

    def rank(file: Path) -> tuple[bool, int, str]:
        return (module not in file.stem, -file.read_text().count(module), file.name)

    return [str(file.relative_to(tests.parents[1])) for file in sorted(tests.rglob("test_*.py"), key=rank)]


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("--seed", type=int, required=True)
    words.add_argument("--changes", type=int, default=400)
    words.add_argument("--skip", type=int, default=0, help="so many of the draw were tried before, and are recorded")
    words.add_argument("--folder", action="append", choices=FOLDERS)
    words.add_argument("--record", type=Path, help="where the result is written")
    told = words.parse_args()
    folders = tuple(told.folder or FOLDERS)
    survived, tried, start = [], told.skip, time.monotonic()
    there = Path(tempfile.mkdtemp(prefix="mutations-"))
    try:
        subprocess.run(["git", "-C", str(ROOT), "worktree", "add", "--detach", "-f", str(there)], check=True)
        every = drawn(told.seed, folders, told.changes)
        before = _recorded(told.record) if told.skip else []
        for tried, change in enumerate(every[told.skip :], start=told.skip + 1):
            if not noticed(there, change):
                survived.append(f"`{change.file}:{change.line}`: {change.says}")
                print(f"not noticed: {survived[-1]}", flush=True)
            print(f"{tried}: {len(survived)} not noticed, {time.monotonic() - start:.0f} s", flush=True)
            if told.record:
                _write(told.record, told.seed, folders, tried, [*before, *survived])
    finally:
        subprocess.run(["git", "-C", str(ROOT), "worktree", "remove", "--force", str(there)], check=False)
        shutil.rmtree(there, ignore_errors=True)


def _recorded(page: Path | None) -> list[str]:
    """What nobody noticed so far, with what was said of it."""
    if page is None or not page.exists():
        return []
    return [line.removeprefix("- ") for line in page.read_text().splitlines() if line.startswith("- ")]


def _write(page: Path, seed: int, folders: tuple[str, ...], tried: int, survived: list[str]) -> None:
    """The result and its date, with what nobody noticed."""
    equivalent = sum("(equivalent" in one for one in survived)
    share = (tried - len(survived)) / max(tried - equivalent, 1)
    lines = [
        "# Do the tests bite?", "",
        "One change at a time is made to the code (`scripts/mutations.py`), and the folder's own tests are to notice "
        "it.", "",
        f"{datetime.date.today():%d %B %Y}, seed {seed}, in {', '.join(folders)}: {tried} changes, {equivalent} that "
        f"change nothing, {tried - len(survived)} noticed ({share:.0%} of the others).", "", "Not noticed:", "",
        *(f"- {one}" for one in survived),
    ]  # fmt: skip
    page.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
