"""What CONTRIBUTING and the docs claim of the code, compared with the code."""

import ast
import re
import tomllib
from pathlib import Path

import pytest

import mockup.readings
from mockup.base.stations import Station
from mockup.base.topics import EVERYTHING, STATIONS
from mockup.checks.check import Kind
from mockup.readings.kinds import READING_KINDS
from web.page.answers import TYPE_HERE, TYPED_ONE_BY_ONE

SRC = Path("src")
CONTRIBUTING = Path("CONTRIBUTING.md").read_text()
CONTRACTS = tomllib.loads(Path("pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
FILES = [
    str(path)
    for folder in (SRC, Path("docs"), Path("tests"), Path("benchmarks"))
    for path in folder.rglob("*.*")
    if "__pycache__" not in path.parts
] + [path.name for path in Path().glob("*.*")]
WRITES = {"save", "create", "get_or_create", "update_or_create", "bulk_create", "bulk_update", "delete", "update"}
VIEWS = ("accounts", "builds_list", "stations", "shelf_pages", "quick", "memory", "page", "entry", "programs/api.py")
INCH = {25.4, 0.0254, "25.4", "0.0254"}
NOT_THE_UNIT = r"(?! (this|the|a|that|all|any|one|its|both|each|front|use|parts?)\b)"
UNIT_IN_TEXT = re.compile(rf"[0-9}}] ?(thou|in)\b{NOT_THE_UNIT}|\bin\)")
UNIT_AFTER_FIGURE = re.compile(r" ?(mm|thou|cc)\b(?!³)| in\)")


def python_in(*folders):
    """The Python files of some folders, migrations aside."""
    paths = [path for one in folders for path in ([SRC / one] if one.endswith(".py") else (SRC / one).rglob("*.py"))]
    return sorted(path for path in paths if "migrations" not in path.parts)


def writes(source):
    """Calls that write rows: what they are called on, a form's own save aside."""
    calls = (node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Call))
    named = [call.func for call in calls if isinstance(call.func, ast.Attribute) and call.func.attr in WRITES]
    on = [ast.unparse(func) for func in named]
    return [one for one in on if "objects" in one or re.fullmatch(r"(?!form|own)\w+\.(save|delete)", one)]


def inch_factors(source):
    """Constants that are millimetres in an inch or in a thou."""
    nodes = [node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Constant)]
    return [node.lineno for node in nodes if not isinstance(node.value, bool) and node.value in INCH]


def texts(source):
    """Texts of a module that may be shown: no docstrings."""
    tree = ast.parse(source)
    bare = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    found = [node for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str)]
    return [node.value for node in found if id(node) not in bare]


def units_formatted(source):
    """Texts in which a figure is followed by its unit."""
    joined = [node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.JoinedStr)]
    pairs = [(one, after) for node in joined for one, after in zip(node.values, node.values[1:], strict=False)]
    after = [text for one, text in pairs if isinstance(one, ast.FormattedValue) and isinstance(text, ast.Constant)]
    return [text.value for text in after if UNIT_AFTER_FIGURE.match(text.value)]


@pytest.mark.parametrize("path", python_in(*(f"web/{view}" for view in VIEWS)), ids=str)
def test_a_view_writes_no_rows(path):
    if path.name != "services.py":
        assert writes(path.read_text()) == []


def test_only_quantity_knows_how_long_an_inch_is():
    others = [path for path in python_in("mockup", "web") if "quantity" not in path.parts]
    assert {str(path): lines for path in others if (lines := inch_factors(path.read_text()))} == {}


def test_no_message_of_the_core_has_inches_written_into_it():
    # Words belong to the report, and formats name units as columns and files have them.
    others = [path for path in python_in("mockup") if not {"quantity", "words", "formats"} & set(path.parts)]
    found = {str(path): [text for text in texts(path.read_text()) if UNIT_IN_TEXT.search(text)] for path in others}
    assert {path: some for path, some in found.items() if some} == {}


def test_no_view_formats_a_unit():
    found = {str(path): units_formatted(path.read_text()) for path in python_in("web")}
    assert {path: some for path, some in found.items() if some} == {}


@pytest.mark.parametrize(
    ("name", "most"), [("Inside the core, downward only", 0), ("Inside the web application, downward only", 1)]
)
def test_the_layers_on_the_page_are_those_that_are_checked(name, most):
    layers = next(one["layers"] for one in CONTRACTS if one["name"] == name)
    wanted = [part.strip() for layer in layers for part in layer.split("|") if part.strip() != "urls"]
    if most:
        rows = re.findall(r"^\| ((?:`\w+`(?:, )?)+) \|", CONTRIBUTING, re.MULTILINE)
        said = [part for row in rows for part in re.findall(r"`(\w+)`", row)]
    else:
        (block,) = re.findall(r"The import rules[^\n]*\n\n((?:    .*\n)+)", CONTRIBUTING)
        said = [part for line in block.splitlines() for part in re.split(r", ", re.split(r"  +", line.strip())[0])]
    assert [one for one in said if one in wanted] == said
    assert sorted(said) == sorted(wanted)


@pytest.mark.parametrize("package", ["mockup", "web"])
def test_every_folder_is_a_layer_and_says_what_belongs_in_it(package):
    layers = next(one["layers"] for one in CONTRACTS if one.get("containers") == [package])
    named = {part.strip() for layer in layers for part in layer.split("|")}
    folders = {path.parent for path in (SRC / package).glob("*/__init__.py")}
    assert {path.name for path in folders} - named - {"settings"} == set()
    assert [str(path) for path in folders if not ast.get_docstring(ast.parse((path / "__init__.py").read_text()))] == []


def test_third_party_names_everything_that_is_installed_or_shipped():
    page = re.sub(r"[^a-z0-9]+", "-", Path("THIRD-PARTY.md").read_text().lower())
    locked = re.findall(r"^([A-Za-z0-9._-]+)==", Path("requirements.lock").read_text(), re.MULTILINE)
    shipped = [path.name for path in Path("src/web/static/vendor").iterdir()]
    wanted = {re.sub(r"[^a-z0-9]+", "-", name.lower()) for name in [*locked, *shipped]}
    assert sorted(name for name in wanted if f"-{name}-" not in page) == []


def test_what_is_read_at_a_station_is_explained_and_asked_for_there():
    assert mockup.readings.__path__
    read = {kind.station for kind in READING_KINDS}
    assert read <= set(TYPE_HERE)
    assert set(TYPED_ONE_BY_ONE) <= read
    assert read - set(TYPED_ONE_BY_ONE) == {Station.TDC}


def test_the_station_of_a_check_belongs_to_what_is_checked():
    lost = [
        str(kind)
        for kind in Kind.all()
        if kind.station and kind.ask and STATIONS.get(kind.station, EVERYTHING).isdisjoint(kind.topics)
    ]
    assert lost == []


def missing_files(page):
    """The files that a page names in backticks and that are nowhere."""
    named = re.findall(r"`([\w.-]+(?:/[\w.-]+)*\.(?:py|html|js|css|json|toml|md))`", page)
    # A backup holds about.json.
    named = [name for name in named if name != "about.json"]
    return [name for name in named if not any(f"/{path}".endswith(f"/{name}") for path in FILES)]


@pytest.mark.parametrize("page", [*sorted(Path("docs").glob("*.md")), *sorted(Path().glob("*.md"))], ids=str)
def test_every_file_that_a_page_names_is_there(page):
    # The page on adding a kind names the files that its reader makes; another test makes them.
    if page.name != "adding-a-kind.md":
        assert missing_files(page.read_text()) == []


def test_the_guards_can_fail():
    assert writes("Build.objects.create(a=1)\nline.save()\nform.save()\nfound.update(x=1)") == [
        "Build.objects.create",
        "line.save",
    ]
    assert inch_factors("x = 3 * 25.4\ny = Decimal('25.4')\nz = 25") == [1, 2]
    assert texts('"""Doc 3 in."""\nx = "A lash of 0.118 in."') == ["A lash of 0.118 in."]
    assert UNIT_IN_TEXT.search("A lash of 0.118 in.")
    assert not UNIT_IN_TEXT.search("Cylinder 3 in this mock-up")
    assert missing_files("see `fit/nothing.py` and `job.py`") == ["fit/nothing.py"]
    assert units_formatted("x = f'{a:.2f} mm'\ny = f'{a} commas'") == [" mm"]
