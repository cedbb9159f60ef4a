"""How large things may grow, and what must not be in them; every guard can fail."""

import ast
import re
from pathlib import Path

import pytest

SRC = Path("src")
PYTHON = [path for path in SRC.rglob("*.py") if "migrations" not in path.parts]
OWN = [path for path in (SRC / "web").rglob("*") if "vendor" not in path.parts and path.is_file()]
TEMPLATES = [path for path in OWN if path.suffix in (".html", ".svg")]
SCRIPTS = [path for path in OWN if path.suffix == ".js"]

UNITS = {
    "mm",
    "mm2",
    "mm4",
    "cm3",
    "deg",
    "1",
    "mm or 1",
    "mm or cm3",
    "bores",
    "g",
    "K",
    "1/K",
    "1/min",
    "m/s2",
    "px",
    "px/mm",
}


def too_long(paths, most):
    return [path for path in paths if len(path.read_text().splitlines()) > most]


def long_functions(source, most):
    functions = [node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.FunctionDef)]
    return [node.name for node in functions if node.end_lineno - node.lineno - _docstring_lines(node) > most]


def _docstring_lines(node):
    first = node.body[0]
    is_docstring = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant)
    return first.end_lineno - first.lineno + 1 if is_docstring else 0


def complexity(function):
    """One more than a function's branches, loops, conditions and comprehensions (McCabe 1976)."""
    count = 1
    for node in ast.walk(function):
        if isinstance(node, ast.BoolOp):
            count += len(node.values) - 1
        elif isinstance(node, ast.comprehension):
            count += 1 + len(node.ifs)
        elif isinstance(
            node, ast.If | ast.For | ast.While | ast.IfExp | ast.ExceptHandler | ast.Assert | ast.match_case
        ):
            count += 1
    return count


def complex_functions(source, most):
    functions = [node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.FunctionDef)]
    return [node.name for node in functions if complexity(node) > most]


def inline_code(text):
    return re.findall(r"<script(?![^>]*\bsrc=)[^>]*>|\sstyle=|<style|\son[a-z]+=|\shx-on", text)


def foreign_addresses(text):
    return [found for found in re.findall(r"https?://[^\s\"')]+", text) if "www.w3.org" not in found]


def unknown_units(source):
    docstrings = [
        ast.get_docstring(node) or ""
        for node in ast.walk(ast.parse(source))
        if hasattr(node, "body") and isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
    ]
    return [unit for text in docstrings for unit in re.findall(r"\[([^\]]*)\]", text) if unit not in UNITS]


NUMBER = re.compile(r"\b(float|Curve|NDArray|Value|ArrayLike)\b")
ARRAY = re.compile(r"\b(Curve|NDArray|ArrayLike)\b")
UNIT_SAID = re.compile(r"\[[^\]]+\]|(?:same|own) unit")
SHAPE_SAID = re.compile(r"shape|\((?:n|m|p)\b")


def public_functions(node):
    """Every public function and method, but those of classes that are not public."""
    for child in ast.iter_child_nodes(node):
        if isinstance(child, ast.FunctionDef) and not child.name.startswith("_"):
            yield child
        elif isinstance(child, ast.ClassDef) and not child.name.startswith("_"):
            yield from public_functions(child)


def without_unit_or_shape(source):
    """Public functions that return a number without unit, or an array without shape."""
    found = []
    for function in public_functions(ast.parse(source)):
        said = ast.get_docstring(function) or ""
        given = ast.unparse(function.returns) if function.returns else ""
        arguments = [*function.args.args, *function.args.kwonlyargs]
        taken = " ".join(ast.unparse(one.annotation) for one in arguments if one.annotation)
        if NUMBER.search(given) and not UNIT_SAID.search(said):
            found.append(f"{function.name} says no unit")
        if ARRAY.search(f"{given} {taken}") and not SHAPE_SAID.search(said):
            found.append(f"{function.name} says no shape")
    return found


def test_files_stay_within_one_topic():
    assert not too_long(PYTHON, 350)
    assert not too_long(TEMPLATES, 200)
    assert not too_long(SCRIPTS, 150)
    assert too_long(PYTHON, 1)


@pytest.mark.parametrize("path", PYTHON, ids=str)
def test_functions_stay_short(path):
    assert not long_functions(path.read_text(), 45)
    assert not complex_functions(path.read_text(), 20)


@pytest.mark.parametrize("path", TEMPLATES + SCRIPTS, ids=str)
def test_nothing_is_inline_and_nothing_is_fetched_from_elsewhere(path):
    text = path.read_text()
    assert path.suffix == ".js" or not inline_code(text)
    assert not foreign_addresses(text)


@pytest.mark.parametrize("path", list((SRC / "mockup").rglob("*.py")), ids=str)
def test_units_in_docstrings_come_from_one_list(path):
    assert not unknown_units(path.read_text())


@pytest.mark.parametrize("path", list((SRC / "mockup").rglob("*.py")), ids=str)
def test_every_public_number_says_its_unit_and_every_array_its_shape(path):
    assert not without_unit_or_shape(path.read_text())


def test_the_guards_can_fail():
    assert complex_functions("def f(a, b):\n    return [x for x in a if x and b] if a or b else 0", 5) == ["f"]
    assert not complex_functions("def f(a, b):\n    return [x for x in a if x and b] if a or b else 0", 6)
    assert long_functions("def f():\n" + "    x = 1\n" * 50, 45) == ["f"]
    for bad in ("<script>1</script>", '<p style="a">', '<a onclick="x">', "<style>"):
        assert inline_code(bad)
    assert not inline_code('<script src="a.js"></script>')
    assert foreign_addresses("url(http://fonts.example/a)")
    assert unknown_units('"""A length [furlong]."""') == ["furlong"]
    bare = 'def f(x: Curve) -> float:\n    """A length."""'
    assert without_unit_or_shape(bare) == ["f says no unit", "f says no shape"]
    assert not without_unit_or_shape(bare.replace("A length.", "A length [mm] of angles, shape (n,)."))


def test_vendored_parts_bring_their_licences():
    for part in (SRC / "web/static/vendor").iterdir():
        assert list(part.glob("LICENSE*")), part


def test_the_lock_files_pin_with_hashes_and_name_no_address():
    for lock in Path().glob("requirements*.lock"):
        text = lock.read_text()
        pins = re.findall(r"^[a-z0-9._-]+(?:\[[a-z,]+\])?==", text, re.MULTILINE)
        assert len(pins) > 10
        assert text.count("--hash=sha256:") >= len(pins)
        assert "://" not in text


def test_every_button_and_field_says_what_kind_it_is():
    """A button without a kind sends its form, whatever it is for (HTML standard, 4.10.6)."""
    tag = re.compile(r"<(?:button|input)\b(?:[^>{]|\{[{%].*?[}%]\})*>", re.DOTALL)
    kindless = [
        f"{path.name}: {found[:60]}"
        for path in (SRC / "web").rglob("*.html")
        for found in tag.findall(path.read_text())
        if "type=" not in found
    ]
    assert kindless == []


def test_no_test_borrows_from_another():
    """What several tests need has a module of its own, so that tests can move alone."""
    borrowed = re.compile(r"^from tests\.[\w.]*test_\w+ import", re.MULTILINE)
    files = [path for folder in ("tests", "benchmarks") for path in Path(folder).rglob("*.py")]
    assert [str(path) for path in files if borrowed.search(path.read_text())] == []
