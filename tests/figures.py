"""The figures of a package as they stand in its code, against docs/figures.md, where a person keeps them."""

import ast
from pathlib import Path

ROOT = Path(__file__).parents[1]
BOOK = ROOT / "docs" / "figures.md"
LONGEST = 600
"""Letters of what is set down as it is written."""


def of_code(package: str) -> dict[str, str]:
    """Every figure that is set where modules and classes are made, by module and name: what it is set to, as code."""
    found: dict[str, str] = {}
    folder = ROOT / "src" / "aquifer" / package
    for path in sorted(folder.rglob("*.py")):
        if "migrations" not in path.parts:
            module = path.relative_to(folder).with_suffix("").as_posix()
            for name, value in _set_in(ast.parse(path.read_text())):
                key = f"{module}: {name}"
                found[key] = f"{found[key]}; {value}" if key in found else value
    return found


def of_book(package: str) -> dict[str, str]:
    """The same as it stands in the book."""
    found: dict[str, str] = {}
    part = BOOK.read_text().partition(f"\n## {package}\n")[2].partition("\n## ")[0]
    for section in part.split("\n### ")[1:]:
        module, _, block = section.partition("\n")
        code = block.partition("```python\n")[2].partition("```")[0]
        for name, value in _set_in(ast.parse(code)):
            key = f"{module.strip()}: {name}"
            found[key] = f"{found[key]}; {value}" if key in found else value
    return found


def _set_in(tree: ast.Module) -> list[tuple[str, str]]:
    """Names and values of the assignments outside of functions that hold a figure."""
    found: list[tuple[str, str]] = []

    def look(body: list[ast.stmt], within: str) -> None:
        for node in body:
            if isinstance(node, ast.ClassDef):
                look(node.body, f"{within}{node.name}.")
            elif isinstance(node, ast.Assign | ast.AnnAssign) and node.value is not None and _has_figure(node.value):
                targets = node.targets if isinstance(node, ast.Assign) else [node.target]
                names = ", ".join(ast.unparse(one) for one in targets)
                found.append((within + names.strip("()"), told(node.value)))

    look(tree.body, "")
    return found


def told(value: ast.expr) -> str:
    """What is set, as code; of a table of many words its figures alone, in their order."""
    written = ast.unparse(value)
    if len(written) <= LONGEST:
        return written
    return str([node.value for node in ast.walk(value) if _is_figure(node)])


def _has_figure(value: ast.expr) -> bool:
    return any(_is_figure(node) for node in ast.walk(value))


def _is_figure(node: ast.AST) -> bool:
    return isinstance(node, ast.Constant) and type(node.value) in (int, float)
