"""Plant faults: a sign, a constant, an argument or a whole statement that is wrong.

The operators are the usual ones of mutation testing (DeMillo, Lipton and Sayward 1978): one small fault at a time, each
such as a person might make. Words, annotations, decorators and tolerances of rounding are left alone.
"""

import ast
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

CORE = Path("src/mockup")
LEAST = 1e-5
"""Constants smaller than this are tolerances of rounding: a little more of one changes nothing anybody could see."""
SWAPPED = {
    "min": "max",
    "max": "min",
    "any": "all",
    "all": "any",
    "sin": "cos",
    "cos": "sin",
    "floor": "ceil",
    "ceil": "floor",
}
OPERATORS = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
COMPARED = {
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """One fault: file, line, what was done, in which function ("" for none), whole module."""

    path: Path
    line: int
    what: str
    function: str
    tree: ast.Module

    @property
    def folder(self) -> str:
        """The folder of the core it stands in."""
        return self.path.relative_to(CORE).parts[0] if len(self.path.relative_to(CORE).parts) > 1 else "mockup"

    def __str__(self) -> str:
        return f"{self.path}:{self.line} {self.function or '(module)'}: {self.what}"


def faults_in(path: Path) -> list[tuple[Path, int, str]]:
    """Every fault that could be planted in a module: number of the place, sort of change."""
    places = _places(ast.parse(path.read_text()), "")
    return [(path, at, change) for at, (node, _) in enumerate(places) for change, _ in _changes(node)]


def planted(path: Path, at: int, change: str) -> Mutant:
    """One of them, planted."""
    tree = ast.parse(path.read_text())
    node, where = next(place for number, place in enumerate(_places(tree, "")) if number == at)
    what = dict(_changes(node))[change]()
    return Mutant(path, node.lineno, what, where, ast.fix_missing_locations(tree))


def _places(node: ast.AST, where: str, outside: str = "") -> Iterator[tuple[ast.expr | ast.stmt, str]]:
    """Nodes that may be changed, with their function's name as code objects have it.

    ``outside``: the function that ``where`` stands in itself.
    """
    for field, value in ast.iter_fields(node):
        if field in ("decorator_list", "annotation", "returns", "type_comment", "bases", "format_spec"):
            continue
        for child in value if isinstance(value, list) else [value]:
            if not isinstance(child, ast.AST) or isinstance(
                child, ast.JoinedStr | ast.Raise | ast.Import | ast.ImportFrom
            ):
                continue
            inside = where
            if isinstance(child, ast.arguments):
                # What is taken where nothing is given is reckoned where the function is made, not in it.
                inside = outside
            if isinstance(child, ast.FunctionDef):
                inside = (
                    f"{where}.<locals>.{child.name}" if _in_function(where) else f"{where}.{child.name}".lstrip(".")
                )
                inside = inside if "(" not in where else inside.replace("(class)", "")
            elif isinstance(child, ast.ClassDef):
                inside = f"{where}.{child.name}".lstrip(".") + "(class)"
            if isinstance(child, ast.keyword) and child.arg in ("order", "strict"):
                continue
            if isinstance(child, ast.expr | ast.stmt):
                yield child, "" if where.endswith("(class)") else where.replace("(class)", "")
            yield from _places(child, inside, where)


def _in_function(where: str) -> bool:
    return bool(where) and not where.endswith("(class)")


def _changes(node: ast.expr | ast.stmt) -> Iterator[tuple[str, Callable[[], str]]]:
    """The sorts of change there are of a node, and what makes each and says what it did."""
    if isinstance(node, ast.stmt):
        yield from _of_statements(node)
    else:
        yield from _of_operators(node)
        yield from _of_values(node)


def _of_statements(node: ast.stmt) -> Iterator[tuple[str, Callable[[], str]]]:
    """A statement removed, or its returned value replaced.

    An assignment to a plain name stays: without it the next line raises, which any test notices.
    """
    match node:
        case ast.Return(value=ast.expr() as value) if not _is_nothing(value):
            yield "return", lambda: _set(node, "value", _another(value))
        case ast.Expr(value=ast.Call() | ast.YieldFrom() | ast.Yield()):
            yield "remove", lambda: _set(node, "value", ast.Constant(None))
        case ast.AugAssign():
            yield "remove", lambda: _set(node, "value", _neutral(node))
        case ast.If(test=test, orelse=[]):
            yield "remove", lambda: _set(node, "test", ast.BoolOp(ast.And(), [ast.Constant(value=False), test]))


def _neutral(node: ast.AugAssign) -> ast.expr:
    """What an augmented assignment does nothing with."""
    by = 1 if isinstance(node.op, ast.Mult | ast.Div) else 0
    return ast.Constant(by) if isinstance(node.value, ast.Constant | ast.BinOp) else _another(node.value)


def _is_nothing(value: ast.expr) -> bool:
    return isinstance(value, ast.Constant) and value.value in (None, "", 0, False)


def _another(value: ast.expr) -> ast.expr:
    """A value of the same sort where one can tell: the opposite, an empty one, or None."""
    other: ast.expr = ast.Constant(None)
    match value:
        case ast.Compare() | ast.BoolOp() | ast.UnaryOp(op=ast.Not()) | ast.Constant(value=bool()):
            other = ast.UnaryOp(ast.Not(), value)
        case ast.List() | ast.ListComp():
            other = ast.List([], ast.Load())
        case ast.Tuple() | ast.GeneratorExp() | ast.Call(func=ast.Name(id="tuple")):
            other = ast.Tuple([], ast.Load())
        case ast.Dict() | ast.DictComp():
            other = ast.Dict([], [])
        case ast.JoinedStr() | ast.Constant(value=str()):
            other = ast.Constant("")
        case ast.BinOp(op=ast.Add() | ast.Sub() | ast.Mult() | ast.Div()) if not _of_words(value):
            other = ast.UnaryOp(ast.USub(), value)
    return other


def _of_operators(node: ast.expr) -> Iterator[tuple[str, Callable[[], str]]]:
    match node:
        case ast.BinOp(op=op) if type(op) in OPERATORS and not _of_words(node):
            yield "op", lambda: _set(node, "op", OPERATORS[type(op)]())
        case ast.Compare(ops=[op]) if type(op) in COMPARED:
            yield "compare", lambda: _set(node, "ops", [COMPARED[type(op)]()])
        case ast.BoolOp(op=op):
            yield "bool", lambda: _set(node, "op", ast.Or() if isinstance(op, ast.And) else ast.And())
        case ast.UnaryOp(op=ast.USub()):
            yield "sign", lambda: _set(node, "op", ast.UAdd())
        case ast.UnaryOp(op=ast.Not()):
            yield "not", lambda: _unnot(node)
        case ast.IfExp():
            yield "swap", lambda: _swap(node)


def _of_values(node: ast.expr) -> Iterator[tuple[str, Callable[[], str]]]:
    match node:
        case ast.Constant(value=bool(value)):
            yield "bool", lambda: _set(node, "value", not value)
        case ast.Constant(value=int(value)):
            yield "number", lambda: _set(node, "value", value + 1)
        case ast.Constant(value=float(value)) if value == 0 or abs(value) >= LEAST:
            yield "number", lambda: _set(node, "value", value * 1.25 if value else 1.0)
        case ast.Name(id=name) if name in SWAPPED:
            yield "call", lambda: _set(node, "id", SWAPPED[name])
        case ast.Attribute(attr=name) if name in SWAPPED:
            yield "call", lambda: _set(node, "attr", SWAPPED[name])
        case ast.Call(args=[ast.expr() as first, ast.expr() as second, *rest]) if _can_swap(first, second):
            yield "arguments", lambda: _set(node, "args", [second, first, *rest])


def _can_swap(first: ast.expr, second: ast.expr) -> bool:
    stars = any(isinstance(one, ast.Starred) for one in (first, second))
    return not stars and ast.dump(first) != ast.dump(second)


def _of_words(node: ast.BinOp) -> bool:
    parts = [part for part in ast.walk(node) if isinstance(part, ast.Constant | ast.JoinedStr)]
    return any(isinstance(part, ast.JoinedStr) or isinstance(part.value, str) for part in parts)


def _set(node: ast.expr | ast.stmt, field: str, value: object) -> str:
    before = ast.unparse(node)
    setattr(node, field, value)
    return f"{before[:60]}  →  {ast.unparse(node)[:60]}"


def _unnot(node: ast.UnaryOp) -> str:
    before = ast.unparse(node)
    node.op, node.operand = ast.Not(), ast.UnaryOp(ast.Not(), node.operand)
    return f"{before[:60]}  →  without not"


def _swap(node: ast.IfExp) -> str:
    before = ast.unparse(node)
    node.body, node.orelse = node.orelse, node.body
    return f"{before[:60]}  →  the other way round"


def sample(of_each: int, seed: int) -> list[Mutant]:
    """So many faults of every folder of the core, the same for the same seed."""
    rng = random.Random(seed)  # noqa: S311, a sample and no secret
    by_folder: dict[str, list[Path]] = {}
    for path in sorted(CORE.rglob("*.py")):
        parts = path.relative_to(CORE).parts
        by_folder.setdefault(parts[0] if len(parts) > 1 else "mockup", []).append(path)
    found = []
    for paths in by_folder.values():
        every = [fault for path in paths for fault in faults_in(path)]
        found += [planted(*fault) for fault in rng.sample(every, min(of_each, len(every)))]
    return found
