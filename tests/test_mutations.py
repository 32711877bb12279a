"""The script that changes the code makes one change at a time, of code and not of words."""

import ast
import importlib.util
from pathlib import Path

SCRIPT = Path(__file__).parents[1] / "scripts" / "mutations.py"
spec = importlib.util.spec_from_file_location("mutations", SCRIPT)
mutations = importlib.util.module_from_spec(spec)
spec.loader.exec_module(mutations)
SOURCE = '''
"""Words with 3 figures."""

def least(one: int, most: float = 2.0) -> float:
    if one < 0:
        raise ValueError(f"{one + 1} is below 0")
    return one * most if one and most > 1 else 5
'''


def test_each_change_is_one_and_makes_another_module():
    found = mutations.changes(SOURCE, "x.py")
    assert {one.says for one in found} == {
        "2.0 to 3.0", "Lt to LtE", "0 to 1", "the guard is left out", "Mult to Div", "the other branch", "And to Or",
        "Gt to GtE", "1 to 2", "5 to 6",
    }  # fmt: skip
    plain = ast.unparse(ast.parse(SOURCE))
    made = [mutations.changed(SOURCE, one) for one in found]
    assert len(set(made)) == len(found) and plain not in made
    for one in made:
        compile(one, "x.py", "exec")
        assert "Words with 3 figures" in one and "{one + 1} is below 0" in one


def test_that_two_are_as_long_is_an_assertion_and_not_changed():
    found = mutations.changes("pairs = list(zip(a, b, strict=True)); rows = sorted(a, reverse=True)", "x.py")
    assert [one.says for one in found] == ["True to False"] and "strict=True" in mutations.changed(
        "pairs = list(zip(a, b, strict=True)); rows = sorted(a, reverse=True)", found[0]
    )


def test_what_is_drawn_is_drawn_by_the_seed_alone():
    first = mutations.drawn(7, ("outbox",), 20)
    assert first == mutations.drawn(7, ("outbox",), 20) != mutations.drawn(8, ("outbox",), 20)
    assert all(one.file.startswith("src/aquifer/outbox/") and "migrations" not in one.file for one in first)


def test_every_test_that_runs_a_changed_line_is_tried_the_likeliest_first(tmp_path):
    (tmp_path / "x.py").write_text("def one(a):\n    return a\n\n\ndef two(b):\n    return b\n")
    tests = tmp_path / "tests" / "core"
    tests.mkdir(parents=True)
    for name in ("test_other.py", "test_x.py"):
        (tests / name).write_text("")
    other, own = "tests/core/test_other.py", "tests/core/test_x.py"
    lines = {"2": [f"{other}::slow", f"{other}::quick", f"{own}::slow", f"{own}::quick"], "6": [""], "9": []}
    seconds = {f"{other}::slow": 50.0, f"{own}::slow": 40.0}
    reach = mutations.Reach("core", tmp_path, {"x.py": lines}, seconds)
    first, rest = reach.tests(mutations.Change("x.py", 2, 0, ""))
    assert first == [f"{own}::quick", f"{other}::quick", f"{own}::slow"] and rest == [f"{other}::slow"]
    assert reach.takes(rest) == 50.0 and reach.longest(rest) == mutations.LONGEST_S + 150
    # A whole file takes what its tests take.
    assert reach.takes([other, own]) == 90.0
    # What runs as modules load may be noticed by any, those of its own name first.
    assert reach.tests(mutations.Change("x.py", 6, 0, "")) == ([own, other], [])
    assert reach.tests(mutations.Change("x.py", 5, 0, "")) == ([], [])
