"""./mole check: what it prints, and its exit codes."""

import csv
import io
import json

import pytest

from mockup import __version__
from mockup import command as check
from mockup.engine.valves import Side
from mockup.formats.job_write import write_job
from mockup.limits.schools import READY_MADE
from mockup.readings.clay import ClayReading
from mockup.report import Verdict
from tests.making import clay, job, job_with_clay, with_readings
from tests.making_jobs import signed


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
        (job(limits=READY_MADE["makers"]), 3),
        (with_readings(job_with_clay(clay(60)), deck=()), 1),
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
    assert intake["governing"]["corrections"][0]["text"] == "as read, one thickness"
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


def test_a_job_is_read_from_standard_input(monkeypatch, capsys):
    monkeypatch.setattr("sys.stdin", io.StringIO(write_job(job())))
    assert check.main(["-"]) == 0
    assert "Next:" in capsys.readouterr().out


def test_of_several_files_the_worst_one_says_the_code_and_each_is_told(tmp_path, capsys):
    for name, made in (("clear", job()), ("short", job_with_clay(*SHORT)), ("open", job(clay=()))):
        (tmp_path / name).write_text(write_job(made), encoding="utf-8")
    (tmp_path / "bad").write_text("{}", encoding="utf-8")
    clear, short, unfinished, bad = (str(tmp_path / name) for name in ("clear", "short", "open", "bad"))
    assert check.main([clear, unfinished]) == 3
    assert check.main([clear, unfinished, short]) == 1
    said = capsys.readouterr().out
    assert said.index(unfinished) < said.index(short)
    assert check.main([clear, short, bad]) == 2
    captured = capsys.readouterr()
    assert f"{bad}: engine: This is required." in captured.err
    assert short in captured.out
    assert check.main([clear, short, "--format", "json"]) == 1
    assert set(json.loads(capsys.readouterr().out)) == {clear, short}


def test_csv_has_a_line_a_check_in_millimetres(tmp_path, capsys):
    assert run(tmp_path, write_job(job_with_clay(*SHORT)), "--format", "csv") == 1
    lines = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    short = next(line for line in lines if line["check"] == "Exhaust 2")
    assert (short["state"], short["unit"], short["required"]) == ("short", "mm", "yes")
    # 60 thou of clay, the limit of 100: 1.524 mm less the same gasket, 2.54 mm (an inch is 25.4 mm by definition).
    assert float(short["figure"]) == pytest.approx(1.524, abs=0.15)
    assert float(short["low"]) == pytest.approx(2.54)
    assert float(short["margin"]) == pytest.approx(float(short["figure"]) - float(short["low"]), abs=1e-3)


def test_the_version_is_the_one_of_the_package(capsys):
    with pytest.raises(SystemExit) as ended:
        check.main(["--version"])
    assert ended.value.code == 0
    assert capsys.readouterr().out.split() == ["Astute", "Mole", __version__]
