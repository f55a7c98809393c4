"""The faults: an operator, a comparison, a number, a condition or a result is another one."""

import ast
import random
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

PACKAGES = ("music", "feel", "craft", "session", "files", "work", "listen", "desk")
_SWAPS: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult,
    ast.Mod: ast.FloorDiv, ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.And: ast.Or,
    ast.Or: ast.And,
}  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """One fault: in which file and line, what it was and what it is."""

    file: Path
    line: int
    before: str
    after: str
    source: str  # the whole file with the fault in it


def drawn(root: Path, count: int, seed: int) -> list[Mutant]:
    """So many faults, drawn by a seed over all places that could have one."""
    places = [(file, i) for file in _files(root) for i in range(len(list(_places(ast.parse(file.read_text())))))]
    chosen = random.Random(seed).sample(places, min(count, len(places)))
    return [_mutant(file, i) for file, i in chosen]  # in the order drawn, so that a run cut short is a fair sample


def _files(root: Path) -> list[Path]:
    return sorted(
        f for p in PACKAGES for f in (root / "src" / "ghoststep" / p).rglob("*.py") if f.name != "__init__.py"
    )


def _places(tree: ast.AST) -> Iterator[ast.AST]:
    """Every node that can be another one; annotations, what makes a class a dataclass, and messages are left alone."""
    skipped: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.AnnAssign):
            skipped |= {id(n) for n in ast.walk(node.annotation)}
        elif isinstance(node, ast.FunctionDef):
            parts = [*(a.annotation for a in [*node.args.args, *node.args.kwonlyargs]), node.returns]
            skipped |= {id(n) for part in parts if part is not None for n in ast.walk(part)}
        elif isinstance(node, ast.ClassDef):
            skipped |= {id(n) for decorator in node.decorator_list for n in ast.walk(decorator)}
        elif isinstance(node, ast.Raise):
            skipped |= {id(n) for n in ast.walk(node)}
    for node in ast.walk(tree):
        if id(node) not in skipped and _changed(node, dry=True):
            yield node


def _changed(node: ast.AST, *, dry: bool) -> bool:
    """Whether a node can be changed; changes it unless only asked."""
    if isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in _SWAPS:
        if isinstance(node.op, ast.Add | ast.Mod) and _is_text(node):
            return False
        if not dry:
            node.op = _SWAPS[type(node.op)]()
        return True
    if isinstance(node, ast.Compare) and type(node.ops[0]) in _SWAPS:
        if not dry:
            node.ops[0] = _SWAPS[type(node.ops[0])]()
        return True
    if isinstance(node, ast.Constant) and isinstance(node.value, bool | int | float):
        if not dry:
            node.value = not node.value if isinstance(node.value, bool) else node.value + 1
        return True
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        if not dry:
            node.op = ast.UAdd()
            node.operand = ast.Call(ast.Name("bool", ast.Load()), [node.operand], [])
        return True
    if isinstance(node, ast.IfExp):
        if not dry:
            node.body, node.orelse = node.orelse, node.body
        return True
    return False


def _is_text(node: ast.BinOp | ast.BoolOp) -> bool:
    return any(
        isinstance(n, ast.JoinedStr) or (isinstance(n, ast.Constant) and isinstance(n.value, str))
        for n in ast.walk(node)
    )


def _mutant(file: Path, index: int) -> Mutant:
    tree = ast.parse(file.read_text())
    node = list(_places(tree))[index]
    before = ast.unparse(node)
    _changed(node, dry=False)
    ast.fix_missing_locations(tree)
    return Mutant(file, getattr(node, "lineno", 0), before, ast.unparse(node), ast.unparse(tree))
