"""Do the tests bite? One change at a time is made to the code, and a folder's own tests are to notice it.

    python scripts/mutations.py --seed N [--changes N] [--skip N] [--folder core ...] [--record docs/mutations.md]

Drawn by the seed, so that nobody chooses what is tried. Everything happens in copies of the last commit. The tests of a
folder run once to learn which of them reach a line; a change is then tried with those alone, since no other can notice
it. What was not noticed can be judged in the record: a line that ends in "(equivalent: why)" stays as it is and is
counted beside.
"""

import argparse
import ast
import contextlib
import copy
import datetime
import importlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from xml.etree import ElementTree

import coverage
import pytest

ROOT = Path(__file__).parents[1]
FOLDERS = ("core", "visiting", "visits", "rounds", "imports", "outbox", "forecasts")
TESTS = {"visiting": "visits"}
"""Where a folder's tests lie under another name."""
LONGEST_S = 300
"""When a change's tests take so much longer than three times as long as they did, it is taken for one that never
ends."""
ENOUGH_S, QUICK_S = 60.0, 0.5
"""What the likeliest tests of a change may take; the others follow where none of these noticed it."""
SETTLED = ("aquifer", "tests", "django", "ninja", "simple_history", "procrastinate", "axes", "schemathesis", "_pytest",
           "pytest_django", "xdist", "__main__")  # fmt: skip
"""What may not be loaded before a copy is chosen and its settings are known; all else is loaded once."""
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
    if isinstance(node, ast.keyword) and node.arg == "strict":
        # Of a zip: an assertion that two are as long as each other.
        yield node.value
    if isinstance(node, ast.FunctionDef | ast.ClassDef):
        for decorator in node.decorator_list:
            yield from ast.walk(decorator)


def _of(node: ast.AST) -> Iterator[tuple[str, Callable[[], None]]]:
    def put(name: str, value: object) -> Callable[[], None]:
        return lambda: setattr(node, name, value)

    if isinstance(node, ast.Compare) and len(node.ops) == 1 and (other := COMPARED.get(type(node.ops[0]))):
        yield f"{type(node.ops[0]).__name__} to {other.__name__}", put("ops", [other()])
    elif isinstance(node, ast.BinOp) and (other := RECKONED.get(type(node.op))):
        words = isinstance(node.left, ast.JoinedStr) or (
            isinstance(node.left, ast.Constant) and not isinstance(node.left.value, int | float)
        )
        if not words:
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


@dataclass
class Reach:
    """Which tests run a line, of one folder."""

    folder: str
    there: Path
    lines: dict[str, dict[str, list[str]]] = field(default_factory=dict)
    """By file and line: the tests; an empty name is what runs when a module is loaded."""
    seconds: dict[str, float] = field(default_factory=dict)
    """How long a test takes; of one that is not in it, a moment."""

    def tests(self, change: Change) -> tuple[list[str], list[str]]:
        """Those that can notice a change: the likeliest, as many as run in ``ENOUGH_S``, and the others; all of the
        folder's if it is made as modules load."""
        lines = self.lines.get(change.file, {})
        names = {
            name for line in _statement(self.there / change.file, change.line) for name in lines.get(str(line), ())
        }
        files = _likeliest(self.there / "tests" / TESTS.get(self.folder, self.folder), Path(change.file).stem)
        if "" in names:
            return files, []
        rank = {file: number for number, file in enumerate(files)}
        # A slow test that is the likeliest comes after the quick ones, which mostly notice first.
        order = sorted(
            names, key=lambda name: (self._takes(name) > QUICK_S, rank.get(name.split("::")[0], len(rank)), name)
        )
        until = [sum(map(self._takes, order[: n + 1])) for n in range(len(order))]
        first = sum(ends <= ENOUGH_S for ends in until) or 1
        return order[:first], order[first:]

    def takes(self, names: list[str]) -> float:
        """How long some tests take, s."""
        return sum(map(self._takes, names))

    def longest(self, names: list[str]) -> float:
        """Until when these may run, s."""
        return LONGEST_S + 3 * self.takes(names)

    def _takes(self, name: str) -> float:
        if "::" in name:
            return self.seconds.get(name, 0.05)
        return sum(took for one, took in self.seconds.items() if one.startswith(f"{name}::"))


def _statement(path: Path, line: int) -> range:
    """The lines of the innermost statement at a line: of one with a block its head alone."""
    smallest = range(line, line + 1)
    size = float("inf")
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.stmt):
            block = getattr(node, "body", None)
            end = block[0].lineno if isinstance(block, list) else (node.end_lineno or node.lineno) + 1
            if node.lineno <= line < end and end - node.lineno < size:
                smallest, size = range(node.lineno, end), end - node.lineno
    return smallest


def reached(folder: str, there: Path) -> Reach:
    """Runs a folder's tests once and notes what each runs, and keeps it for as long as neither code nor tests change.

    Raises: RuntimeError if they fail as the code stands.
    """
    trees = [f"HEAD:src/aquifer/{folder}", f"HEAD:tests/{TESTS.get(folder, folder)}"]
    told = subprocess.run(["git", "rev-parse", *trees], cwd=there, check=True, capture_output=True, text=True).stdout
    kept = ROOT / "var" / "reach" / f"{folder}-{'-'.join(one[:12] for one in told.split())}.json"
    if not kept.exists():
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.write_text(json.dumps(_reached(folder, there)))
    return Reach(folder, there, **json.loads(kept.read_text()))


def _reached(folder: str, there: Path) -> dict[str, object]:
    data = there / f".reach-{folder}"
    ran = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-n2", f"--cov=aquifer.{folder}", "--cov-context=test", "--cov-report=",
         f"--junitxml={data}.xml", *_options(folder), f"tests/{TESTS.get(folder, folder)}"],
        cwd=there, capture_output=True, text=True, env=_environment(there, 9) | {"COVERAGE_FILE": str(data)},
    )  # fmt: skip
    if ran.returncode:
        raise RuntimeError(f"The tests of {folder} fail as the code stands: {ran.stdout[-2000:]}")
    told = coverage.CoverageData(str(data))
    told.read()
    lines = {
        str(Path(file).relative_to(there)): {
            line: sorted({name.split("|")[0] for name in names})
            for line, names in told.contexts_by_lineno(file).items()
        }
        for file in told.measured_files()
    }
    cases = ElementTree.parse(f"{data}.xml").getroot().iter("testcase")
    took = {
        f"{case.get('classname', '').replace('.', '/')}.py::{case.get('name')}": float(case.get("time", 0))
        for case in cases
    }
    return {"lines": lines, "seconds": {name: took_s for name, took_s in took.items() if took_s > QUICK_S}}


def _options(folder: str) -> tuple[str, ...]:
    return PURE if folder == "core" else ()


def _environment(there: Path, slot: int) -> dict[str, str]:
    """Of the tests in a copy: its own code, its own database."""
    return {**os.environ, "PYTHONPATH": str(there / "src"), "AQUIFER_DB_NAME": f"aquifer_change_{slot}"}


def preload(there: Path, folders: tuple[str, ...]) -> None:
    """Loads what tests load of other people's code, once for all the changes: half of a short run is loading."""
    source = (
        "import json, sys, pytest\n"
        "class Loaded:\n"
        "    def pytest_collection_finish(self):\n"
        "        json.dump(sorted(sys.modules), open(sys.argv[1], 'w'))\n"
        "pytest.main(['-q', '--collect-only', *sys.argv[2:]], plugins=[Loaded()])\n"
    )
    names = set()
    for folder in folders:
        to = there / ".loaded.json"
        words = [str(to), *_options(folder), f"tests/{TESTS.get(folder, folder)}"]
        subprocess.run(
            [sys.executable, "-c", source, *words], cwd=there, stdout=subprocess.DEVNULL, check=True,
            env=_environment(there, 9),
        )  # fmt: skip
        names |= set(json.loads(to.read_text()))
    for name in sorted(names):
        if name.split(".")[0] not in SETTLED:
            with contextlib.suppress(BaseException):
                importlib.import_module(name)


@dataclass
class Slot:
    """A copy of the code in which one change at a time is tried."""

    there: Path
    number: int
    change: Change | None = None
    before: str = ""
    child: int = 0
    began: float = 0.0
    longest: float = LONGEST_S
    rest: list[str] = field(default_factory=list)
    """What is tried if the first tests notice nothing."""

    def begin(self, change: Change, tests: list[str], rest: list[str], longest: float) -> None:
        """Makes the change and runs the tests in a child of this process, which has loaded most of what they need."""
        self.rest, self.longest = rest, longest
        path = self.there / change.file
        self.change, self.before, self.began = change, path.read_text(), time.monotonic()
        path.write_text(changed(self.before, change))
        self.child = os.fork()
        if self.child == 0:
            os._exit(_run(self.there, self.number, Path(change.file).parts[2], tests))

    def ended(self) -> bool | None:
        """Whether the change was noticed, once that is known; what never ends is noticed, too."""
        pid, status = os.waitpid(self.child, os.WNOHANG)
        late = time.monotonic() - self.began > self.longest
        if pid == 0 and not late:
            return None
        if pid == 0:
            os.killpg(self.child, signal.SIGKILL)
            os.waitpid(self.child, 0)
        if self.change is not None:
            (self.there / self.change.file).write_text(self.before)
        self.change = None
        return late or os.waitstatus_to_exitcode(status) != 0


def _run(there: Path, slot: int, folder: str, tests: list[str]) -> int:
    """What pytest says of these tests, in a process of its own. Nothing compiled is written, lest it outlive the
    change."""
    os.setsid()
    os.environ.update(_environment(there, slot))
    os.chdir(there)
    sys.dont_write_bytecode = True
    sys.path[:0] = [str(there / "src"), str(there)]
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    os.dup2(nowhere, 2)
    return int(pytest.main(["-x", "-q", "-p", "no:cov", *_options(folder), *tests]))


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
    words.add_argument("--at-once", type=int, default=2)
    words.add_argument("--folder", action="append", choices=FOLDERS)
    words.add_argument("--record", type=Path, help="where the result is written")
    told = words.parse_args()
    folders = tuple(told.folder or FOLDERS)
    # As the program itself has it; what is loaded here is loaded before it can say so.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    copies = [Path(tempfile.mkdtemp(prefix="mutations-")) for _ in range(told.at_once)]
    try:
        for there in copies:
            subprocess.run(["git", "-C", str(ROOT), "worktree", "add", "--detach", "-f", str(there)], check=True)
        tried(told, folders, [Slot(there, number) for number, there in enumerate(copies)])
    finally:
        for there in copies:
            subprocess.run(["git", "-C", str(ROOT), "worktree", "remove", "--force", str(there)], check=False)
            shutil.rmtree(there, ignore_errors=True)


def tried(told: argparse.Namespace, folders: tuple[str, ...], slots: list[Slot]) -> None:
    """Tries every change of the draw and writes down what was not noticed."""
    start, survived = time.monotonic(), _recorded(told.record) if told.skip else []
    # A folder at a time: a short run is of one kind, and what was loaded serves all.
    order = sorted(
        drawn(told.seed, folders, told.changes), key=lambda change: folders.index(Path(change.file).parts[2])
    )
    every = order[told.skip :]
    reach: dict[str, Reach] = {}
    ended = told.skip

    def note(change: Change, noticed: bool) -> None:
        nonlocal ended
        ended += 1
        if not noticed:
            survived.append(f"`{change.file}:{change.line}`: {change.says}")
            print(f"not noticed: {survived[-1]}", flush=True)
        print(f"{ended}: {len(survived)} not noticed, {time.monotonic() - start:.0f} s", flush=True)
        if told.record:
            _write(told.record, told.seed, folders, ended, survived)

    touched = tuple(folder for folder in folders if any(Path(change.file).parts[2] == folder for change in every))
    for folder in touched:
        reach[folder] = reached(folder, slots[0].there)
        print(f"reach of {folder} known, {time.monotonic() - start:.0f} s", flush=True)
    for slot in slots[1:]:
        # Compiled once, tests included, before anything is changed.
        subprocess.run([sys.executable, "-m", "compileall", "-q", "src", "tests"], cwd=slot.there, check=True)
    preload(slots[0].there, touched)
    while every or any(slot.change for slot in slots):
        for slot in slots:
            if (change := slot.change) is not None:
                noticed = slot.ended()
                if noticed is False and slot.rest:
                    slot.begin(change, slot.rest, [], reach[Path(change.file).parts[2]].longest(slot.rest))
                elif noticed is not None:
                    note(change, noticed)
            elif every:
                change = every.pop(0)
                tests, rest = reach[Path(change.file).parts[2]].tests(change)
                if tests:
                    slot.begin(change, tests, rest, reach[Path(change.file).parts[2]].longest(tests))
                else:
                    note(change, False)
        time.sleep(0.1)


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
