"""The core as a package: what pip installs runs, and its page names its surface."""

import doctest
import os
import re
import subprocess
import sys
from dataclasses import replace

import pytest

from launch.places import HOME
from mockup import __version__, public
from mockup.formats.job_write import write_job
from tests.making import CARD, short_eight, twelve

PAGE = HOME / "docs" / "core.md"


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """A folder into which pip installed the project as it is, without anything it depends on."""
    copy, target = tmp_path_factory.mktemp("copy"), tmp_path_factory.mktemp("installed")
    # From a copy: building leaves its traces beside the source.
    for name in ("src/mockup", "pyproject.toml", "README.md"):
        (copy / name).parent.mkdir(parents=True, exist_ok=True)
        subprocess.run(["cp", "-r", str(HOME / name), str(copy / name)], check=True)
    pip = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--no-build-isolation", "--no-index"]
    subprocess.run([*pip, "--target", str(target), str(copy)], check=True)
    return target


def run(installed, *command):
    environment = {"PATH": os.environ["PATH"], "PYTHONPATH": str(installed)}
    return subprocess.run(command, env=environment, cwd=installed, capture_output=True, text=True, check=False)


def test_what_pip_installs_is_the_core_typed_with_its_command(installed):
    assert {path.name for path in installed.iterdir() if path.is_dir()} >= {"mockup", "bin"}
    assert not (installed / "web").exists()
    assert (installed / "mockup" / "py.typed").exists()
    example = str(HOME / "docs" / "example.job.json")
    done = run(installed, sys.executable, str(installed / "bin" / "mole-check"), example)
    assert done.returncode == 1, done.stderr
    assert "Exhaust 6" in done.stdout
    version = run(installed, sys.executable, "-c", "import mockup; print(mockup.__version__, mockup.__file__)")
    assert version.stdout.split() == [__version__, str(installed / "mockup" / "__init__.py")]


def test_it_judges_cams_by_their_cards_and_whole_engines_alone(installed, tmp_path):
    carded = replace(short_eight(), cam_card=CARD)
    for name, one in {"eight": short_eight(), "twelve": twelve(), "carded": carded}.items():
        (tmp_path / f"{name}.job.json").write_text(write_job(one))
    files = [str(tmp_path / f"{name}.job.json") for name in ("eight", "twelve", "carded")]
    done = run(installed, sys.executable, str(installed / "bin" / "mole-check"), *files)
    assert done.stderr == ""
    assert done.stdout.count("Every check") == 3 or done.stdout.count("clear") > 3
    kept = run(installed, sys.executable, "-c", "from mockup.motion.uncertain import TABLE; print(TABLE.is_file())")
    assert kept.stdout.strip() == "True"


def test_asking_for_the_version_reads_nothing_else_in(installed):
    command = "import sys, mockup; mockup.__version__; print([name for name in sys.modules if 'numpy' in name])"
    assert run(installed, sys.executable, "-c", command).stdout.strip() == "[]"


def test_the_page_names_the_whole_public_surface_and_its_examples_run(monkeypatch):
    table = PAGE.read_text().partition("| name |")[2].partition("\n\n")[0]
    named = set(re.findall(r"`(\w+)", "".join(line.split("|")[1] for line in table.splitlines()[2:])))
    assert named == {name for name in public.__all__ if name != "__version__"}
    monkeypatch.chdir(HOME)
    found = doctest.testfile(str(PAGE), module_relative=False)
    assert (found.failed, found.attempted > 10) == (0, True)
