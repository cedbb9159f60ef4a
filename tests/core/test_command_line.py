"""./mole check: what it prints, and its exit codes."""

import json

import pytest

from launch import check
from mockup.engine.valves import Side
from mockup.jobfile.write import write_job
from mockup.limits.sheets import READY_MADE
from mockup.readings.clay import ClayReading
from mockup.report import Verdict
from tests.core.test_sign_off import signed
from tests.making import clay, job, job_with_clay


def run(tmp_path, text, *options):
    file = tmp_path / "a.job.json"
    file.write_text(text, encoding="utf-8")
    return check.main([str(file), *options])


SHORT = (*job().of(ClayReading), clay(60, 2, Side.EXHAUST))
CLOSE = (*job().of(ClayReading), clay(101, 2, Side.EXHAUST))


@pytest.mark.parametrize(
    ("made", "code"),
    [
        (job(), 0),
        (job_with_clay(*SHORT), 1),
        (job_with_clay(*CLOSE), 1),
        (job(clay=()), 3),
        (job(sheet=READY_MADE["makers"]), 3),
        (job_with_clay(clay(60)).with_readings(deck=()), 1),
        (signed(), 4),
    ],
)
def test_the_exit_code_says_what_the_build_amounts_to(tmp_path, capsys, made, code):
    assert run(tmp_path, write_job(made)) == code
    assert "Next:" in capsys.readouterr().out


def test_every_verdict_has_an_exit_code_of_its_own():
    assert set(check.EXIT_CODES) == set(Verdict)
    assert len({*check.EXIT_CODES.values(), check.UNREADABLE}) == len(Verdict) + 1


def test_json_is_the_report_in_millimetres(tmp_path, capsys):
    assert run(tmp_path, write_job(job()), "--json") == 0
    data = json.loads(capsys.readouterr().out)
    assert data["format"] == "astute-mole/report"
    intake = data["checks"][0]
    assert intake["figure"]["value"] == pytest.approx(2.413)
    assert intake["governing"]["ladder"][0]["text"] == "as read, one thickness"
    assert data["deck"]["1"]["clearance"]["value"] == pytest.approx(4 * 0.0254)
    assert data["deck_planes"][0]["side_to_side_per_100"] is None


@pytest.mark.parametrize(
    ("text", "words"),
    [("{}", "engine: This is required."), ("nonsense", "line 1: Not JSON"), ("[]", "file: A job file")],
)
def test_an_unreadable_file_names_place_and_reason(tmp_path, capsys, text, words):
    assert run(tmp_path, text) == 2
    assert words in capsys.readouterr().err


def test_a_file_that_is_not_there_or_not_text_is_unreadable(tmp_path, capsys):
    assert check.main([str(tmp_path / "none.json")]) == 2
    (tmp_path / "binary.json").write_bytes(b"\xff\xfe\x00")
    assert check.main([str(tmp_path / "binary.json")]) == 2
    assert "cannot be read" in capsys.readouterr().err
