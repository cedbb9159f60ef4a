"""Turns of phrase and old names to avoid in code, templates, scripts and docs.

The rules are in CONTRIBUTING.md, "How we write". "So that" is not listed: it is plain English where it gives a purpose.
"""

import ast
import re
from pathlib import Path

import pytest

from mockup.words.glossary import TERMS

ROOT = Path(__file__).parents[2]
TURNS = {
    "anew": r"\banew\b",
    "stands (for is)": r"\b(stands?|stood) (as|on the|here|there|beside|so|how|otherwise)\b|\bas (it|they) stands?\b",
    "to be had": r"\b(is|are|be|was) had\b",
    "whoever, wherever": r"\b(whoever|wherever)\b",
    "whatever": r"\bwhatever (is|was|the|it|its|they)\b",
    "of which": r", of (which|whom|what)\b|\bof whose\b",
    "as said": r"\bas said\b|\bnobody (says|said)\b|\bsomebody (says|said)\b|\banybody (says|said)\b|\bit is said\b",
    "another now": r"\banother now\b",
    "no more (for no longer)": r"\b(is|are|does|do|may|can|holds?|counts?) no more\b(?! \w)",
    "as far as it is known": r"\bas far as (it|they) (is|are) (known|said)\b",
    "there is none of": r"\bthere (is|are|was) none of\b",
    "how truly": r"\bhow truly\b|\bknown truly\b",
    "theirs to say": r"\b(theirs|his|hers) to say\b",
    "called so": r"\bcalled so\b",
    "put on again": r"\bput (on|off) again\b",
    "daylight": r"\bdaylight\b",
    "rung, ladder": r"\brungs?\b|\bladders?\b",
    "the stand, the run": r"\bthe stand\b(?!-)|\bthe run\b(?! of)",
    "margin sheet": r"\bmargin sheets?\b",
}
NAMES_OF_OLD_VERSIONS = {"CHANGELOG.md", "docs/job-file.md", "src/mockup/formats/job_read.py"}
"""They explain what older versions called things."""
SKIPPED = ("migrations/", "static/vendor/", "__pycache__")


def texts():
    folders = (ROOT / "src", ROOT / "docs", ROOT / "benchmarks")
    files = [file for folder in folders for file in folder.rglob("*") if file.suffix in {".py", ".html", ".js", ".md"}]
    for file in [*files, *ROOT.glob("*.md"), ROOT / "mole"]:
        name = str(file.relative_to(ROOT))
        if name not in NAMES_OF_OLD_VERSIONS and not any(part in name for part in SKIPPED):
            yield name, file.read_text(encoding="utf-8")


@pytest.mark.parametrize("turn", TURNS)
def test_no_text_uses_a_turn_to_avoid(turn):
    pattern = re.compile(TURNS[turn], re.IGNORECASE)
    found = [
        f"{name}:{text.count(chr(10), 0, hit.start()) + 1}: {hit.group()}"
        for name, text in texts()
        for hit in pattern.finditer(text)
    ]
    assert not found


@pytest.mark.parametrize(
    ("text", "turn"),
    [
        ("Nobody says how thick it is.", "as said"),
        ("It is worked out anew.", "anew"),
        ("Drawn wherever it fits.", "whoever, wherever"),
        ("a train, of which nothing was read", "of which"),
        ("The lash holds no more.", "no more (for no longer)"),
    ],
)
def test_the_list_finds_what_it_is_for(text, turn):
    assert re.search(TURNS[turn], text, re.IGNORECASE)


def words_of(call, name):
    return [word.value.value for word in call.keywords if word.arg == name and isinstance(word.value, ast.Constant)]


def test_a_label_is_a_noun_of_its_own_and_not_the_help_beside_it():
    for file in (ROOT / "src").rglob("*.py"):
        for call in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(call, ast.Call):
                for label in words_of(call, "label"):
                    assert label not in words_of(call, "help_text"), f"{file}:{call.lineno}"


def test_a_term_of_the_glossary_is_a_name_and_is_explained_once():
    assert all(len(term.words) < 40 and not term.words.endswith(".") for term in TERMS)
    assert len({term.meaning for term in TERMS}) == len(TERMS)


LONGEST_FIRST_LINE = 90


def long_first_lines(source):
    """The first paragraphs of docstrings that are longer than a line of ninety characters."""
    nodes = [
        node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
    ]
    firsts = [(ast.get_docstring(node) or "").partition("\n\n")[0].replace("\n", " ") for node in nodes]
    return [first for first in firsts if len(first) > LONGEST_FIRST_LINE]


def test_a_docstring_begins_with_one_short_sentence():
    folders = (ROOT / "src", ROOT / "tests", ROOT / "benchmarks")
    files = [file for folder in folders for file in folder.rglob("*.py") if "migrations" not in file.parts]
    found = {str(file.relative_to(ROOT)): long_first_lines(file.read_text(encoding="utf-8")) for file in files}
    assert {name: firsts for name, firsts in found.items() if firsts} == {}
    assert long_first_lines(f'"""{"word " * 20}end."""') != []
