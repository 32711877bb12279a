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
