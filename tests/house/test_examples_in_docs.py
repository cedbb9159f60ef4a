"""The examples of docs/serving.md are at least what they say they are."""

import configparser
import re

from launch.__main__ import COMMANDS
from launch.places import HOME

TEXT = (HOME / "docs" / "serving.md").read_text()


def example(heading):
    """The indented block under a heading, as it would be copied."""
    section = TEXT.partition(f"## {heading}\n")[2].partition("\n## ")[0]
    lines = [line.removeprefix("    ") for line in section.splitlines() if line.startswith("    ") or not line]
    return "\n".join(lines).strip()


def test_the_unit_for_systemd_can_be_read_and_starts_what_is_there():
    unit = configparser.ConfigParser(strict=False, interpolation=None)
    unit.optionxform = str
    unit.read_string(example("With systemd"))
    program, command = unit["Service"]["ExecStart"].split()
    assert program.endswith("/mole")
    assert command in COMMANDS
    assert unit["Install"]["WantedBy"] == "multi-user.target"


def test_the_container_file_has_only_instructions_and_installs_what_mole_asks_for():
    whole = example("In a container").replace("\\\n", " ")
    instructions = [line.split()[0] for line in whole.splitlines() if line.strip()]
    assert instructions == ["FROM", "RUN", "COPY", "ENV", "VOLUME", "ENTRYPOINT"]
    wanted = re.findall(r"missing\+=\(([^)]+)\)", (HOME / "mole").read_text())
    packages = {name for words in wanted for name in words.split()} - {"chromium-headless-shell", "libatomic1"}
    assert packages <= set(whole.split())


def test_every_command_in_the_text_is_one():
    assert set(re.findall(r"\./mole (\w+)", TEXT)) <= set(COMMANDS)


def test_the_script_knows_every_command_there_is():
    known = re.search(r"^    (demo [^)]+)\) ;;", (HOME / "mole").read_text(), re.MULTILINE)
    assert set(known[1].split(" | ")) == set(COMMANDS)


def test_every_test_that_the_security_page_names_is_there():
    named = set(re.findall(r"`((?:web|core)/[a-z_]+\.py)`", (HOME / "docs" / "security.md").read_text()))
    assert len(named) > 8
    assert not [name for name in named if not (HOME / "tests" / name).exists()]
