"""The tables of docs/proof.md, which ./mole prove --write writes with date and arithmetic."""

import ast
import hashlib
import re
from datetime import UTC, datetime
from pathlib import Path

PAGE = Path("docs/proof.md")
CORE = ("src/mockup", "src/virtual")
SPOKEN = {"words", "formats", "quick", "plans", "camera", "memory", "command.py"}
# The questions of ``advice`` decide whether a figure may be called clear; these four only tell what is left to do.
SPOKEN |= {"outlook.py", "next_steps.py", "progress.py", "assembly_list.py"}
"""Parts of the core that no row of the proof uses, or that only word it."""
TABLE = "<!-- {name}: {made} -->\n{lines}\n<!-- end of {name} -->"


def arithmetic() -> str:
    """Return a digest of core and virtual engines without comments and texts [12 hex digits]."""
    made = hashlib.sha256()
    for folder in CORE:
        for path in sorted(Path(folder).rglob("*.py")):
            if SPOKEN.isdisjoint(path.parts):
                made.update(ast.dump(_without_words(ast.parse(path.read_text(encoding="utf-8")))).encode())
    return made.hexdigest()[:12]


def _without_words(tree: ast.Module) -> ast.Module:
    """Return the tree with every text emptied, since rewording a message changes no arithmetic."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            node.value = ""
    return tree


def write_table(name: str, command: str, lines: list[str]) -> None:
    """Put a table into the page in place of the one with that name, with date and arithmetic."""
    made = f"made {datetime.now(tz=UTC):%Y-%m-%d} by `{command}`, arithmetic {arithmetic()}"
    text = PAGE.read_text(encoding="utf-8")
    table = TABLE.format(name=name, made=made, lines="\n".join(lines))
    pattern = re.compile(rf"<!-- {name}: .*?<!-- end of {name} -->", re.DOTALL)
    if not pattern.search(text):
        raise ValueError(f"{PAGE} has no table {name}.")
    PAGE.write_text(pattern.sub(lambda _: table, text), encoding="utf-8")


def made_by(name: str) -> str:
    """Return the arithmetic that made the page's table of that name; empty without one."""
    found = re.search(rf"<!-- {name}: made .*?arithmetic (\w+) -->", PAGE.read_text(encoding="utf-8"))
    return found[1] if found else ""
