"""docs/adding-a-kind.md, followed literally in a copy of the program."""

import os
import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

PAGE = Path("docs/adding-a-kind.md")
BLOCK = re.compile(r"^### `([^`]+)`(?:, after `([^`]+)`)?\n\n```\w+\n(.*?)^```$", re.MULTILINE | re.DOTALL)
COMMANDS = re.compile(r"^```sh\n(.*?)^```$", re.MULTILINE | re.DOTALL)
COPIED = ("src", "tests", "docs", "mole", "README.md", "CONTRIBUTING.md", "CHANGELOG.md", "THIRD-PARTY.md")
SETTINGS = ("pyproject.toml", "requirements.lock", "requirements-dev.lock")


def copied(there):
    """Copy the program, without what its runs leave behind."""
    for name in (*COPIED, *SETTINGS):
        if Path(name).is_dir():
            shutil.copytree(name, there / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy(name, there / name)


def followed(there, page):
    """Write the page's files, add its lines after the named ones; returns how many."""
    steps = BLOCK.findall(page)
    for name, anchor, text in steps:
        path = there / name
        if not anchor:
            assert not path.exists(), f"{name} is there already"
            path.parent.mkdir(exist_ok=True)
            path.write_text(text)
            continue
        lines = path.read_text().split("\n")
        assert lines.count(anchor) == 1, f"{name} has {lines.count(anchor)} lines {anchor!r}"
        at = lines.index(anchor) + 1
        path.write_text("\n".join([*lines[:at], *text.splitlines(), *lines[at:]]))
    return len(steps)


def run(there, command, url):
    """Run one command of the page as it stands there, with this environment's tools."""
    tools = str(Path(sys.executable).parent)
    words = shlex.split(command, comments=True)
    own = dict(word.split("=", 1) for word in words if re.match(r"[A-Z_]+=", word))
    rest = [word for word in words if not re.match(r"[A-Z_]+=", word)]
    known = {"PATH": f"{tools}:{os.environ['PATH']}", "PYTHONPATH": f"{there}/src:{there}", "DATABASE_URL": url}
    known["MOLE_HOME"] = str(there)
    kept = {name: text for name, text in os.environ.items() if not name.startswith(("PYTEST", "COV", "DJANGO"))}
    asked = [str(Path(tools, rest[0])), *rest[1:]]
    done = subprocess.run(asked, cwd=there, env=kept | known | own, capture_output=True, text=True, check=False)
    assert done.returncode == 0, f"{command}\n{done.stdout[-6000:]}{done.stderr[-3000:]}"


def test_what_the_page_says_is_all_that_a_new_kind_needs(tmp_path, another):
    copied(tmp_path)
    page = PAGE.read_text()
    assert followed(tmp_path, page) > 15
    (block,) = COMMANDS.findall(page)
    commands = [line for line in block.splitlines() if line.strip()]
    assert len(commands) > 8
    for command in commands:
        run(tmp_path, command, another)
