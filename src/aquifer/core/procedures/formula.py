"""Formulas as data: written in a file as one reads them, computed here and on a device by the same tree.

A tree is a number, the name of an input, or a list of an operation and its arguments.
"""

import ast
from collections.abc import Mapping
from math import exp, inf, log, sqrt

from typing_extensions import TypeAliasType

Tree = TypeAliasType("Tree", "float | str | list[Tree]")
_OPERATORS = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/", ast.Pow: "^"}
FUNCTIONS = ("sqrt", "ln", "exp", "min", "max", "along")
"""``along(x, x0, y0, x1, y1, ...)`` reads y at x from points in rising order of x, straight between them and level
outside."""


def parsed(text: str) -> Tree:
    """The tree of a formula. Raises: ValueError naming what is not known in it."""
    try:
        return _tree(ast.parse(text, mode="eval").body)
    except SyntaxError as error:
        raise ValueError(f"{text}: {error.msg}") from None


def _tree(node: ast.expr) -> Tree:
    if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)) and not isinstance(node.value, bool):
        return float(node.value)
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        return ["-", 0.0, _tree(node.operand)]
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        return [_OPERATORS[type(node.op)], _tree(node.left), _tree(node.right)]
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in FUNCTIONS:
        return [node.func.id, *(_tree(one) for one in node.args)]
    raise ValueError(f"{ast.unparse(node)} is not known in a formula; allowed: + - * / ** and {', '.join(FUNCTIONS)}")


def names(tree: Tree) -> set[str]:
    """The inputs that a formula needs."""
    if isinstance(tree, str):
        return {tree}
    return set[str]().union(*(names(one) for one in tree[1:])) if isinstance(tree, list) else set()


def computed(tree: Tree, inputs: Mapping[str, float]) -> float:
    """The value of a formula; infinite where it divides by nothing, as a tank that gets no air never drains.

    Raises: KeyError for an input that is missing.
    """
    if isinstance(tree, str):
        return inputs[tree]
    if not isinstance(tree, list):
        return tree
    operation, *rest = tree
    a, *more = (computed(one, inputs) for one in rest)
    b = more[0] if more else 0.0
    match operation:
        case "+":
            return a + b
        case "-":
            return a - b
        case "*":
            return a * b
        case "/":
            return a / b if b else inf
        case "^":
            return float(a**b)
        case "sqrt":
            return sqrt(max(a, 0.0))
        case "ln":
            return log(a) if a > 0 else -inf
        case "exp":
            return exp(min(a, 700.0))
        case "min":
            return min(a, *more)
        case "max":
            return max(a, *more)
        case _:
            return _along(a, more)


def _along(x: float, points: list[float]) -> float:
    xs, ys = points[::2], points[1::2]
    if x <= xs[0]:
        return ys[0]
    for (x0, y0), (x1, y1) in zip(zip(xs, ys, strict=True), list(zip(xs, ys, strict=True))[1:], strict=False):
        if x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return ys[-1]
