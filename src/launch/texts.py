"""Every sentence the program shows, as a list: ``python -m launch.texts [FOLDER]``.

Values in a sentence are shown as the code names them, in braces. Docstrings are left out; templates are read where they
are.
"""

import ast
import sys
from collections.abc import Iterator

from launch.places import HOME

FEWEST_WORDS = 3


def texts_of(source: str) -> Iterator[tuple[int, str]]:
    """Yield the line [1] and the text of each sentence in a module, values as ``{expression}``."""
    tree = ast.parse(source)
    bare = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
    for node in ast.walk(tree):
        if id(node) in bare or id(node) in inside or not isinstance(node, ast.Constant | ast.JoinedStr):
            continue
        text = _text(node)
        if len(text.split()) >= FEWEST_WORDS:
            yield node.lineno, " ".join(text.split())


def _text(node: ast.Constant | ast.JoinedStr) -> str:
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else ""
    parts = (part if isinstance(part, ast.Constant) else None for part in node.values)
    values = (ast.unparse(part.value) if isinstance(part, ast.FormattedValue) else "" for part in node.values)
    return "".join(str(part.value) if part else f"{{{value}}}" for part, value in zip(parts, values, strict=True))


def main(arguments: list[str]) -> int:
    """Print the sentences of one folder of ``src``, by default of the core."""
    folder = HOME / "src" / (arguments[0] if arguments else "mockup")
    for path in sorted(folder.rglob("*.py")):
        if "migrations" not in path.parts:
            for line, text in sorted(set(texts_of(path.read_text(encoding="utf-8")))):
                print(f"{path.relative_to(HOME)}:{line}: {text}")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
