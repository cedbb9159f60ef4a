"""Signing off a check that is not clear: by name, with a reason, for its figure."""

from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.changes.change import Change
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.checks.sign_off import signing
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.formats.report_json import report_data
from mockup.limits.judge import State
from mockup.limits.limit_set import Edit
from mockup.limits.sign_off import SignOff
from mockup.readings.clay import ClayReading
from mockup.report import Verdict
from mockup.words.report_text import report_text
from tests.making import clay, job, thou, with_readings
from tests.making_jobs import BY, SHORT, label, signed


def test_a_short_check_signed_off_is_settled_and_still_short():
    assert evaluate(SHORT).verdict is Verdict.NOT_CLEAR
    report = evaluate(signed())
    assert report.verdict is Verdict.SIGNED
    assert report.ready
    assert label(report).state is State.SHORT
    assert label(report).signed.record.by == "Ottoline"
    assert report.steps[0].station is Station.ASSEMBLY
    assert "signed off by Ottoline, 2026-11-25: the cam maker says 0.080" in report_text(report)
    data = report_data(report)
    assert next(one["signed"] for one in data["checks"] if one["label"] == "Exhaust 2")["by"] == "Ottoline"
    assert "signed" in [line["key"] for line in data["final_assembly"]]


def test_a_signature_lapses_when_the_figure_the_limit_or_the_state_is_another():
    for other in (
        with_readings(signed(), clay=(*signed().of(ClayReading), clay(89, 2, Side.EXHAUST))),
        replace(signed(), limits=SHORT.limits.edited({FACE_EXHAUST_LIMIT: Edit(thou(101))})),
    ):
        report = evaluate(other)
        assert report.verdict is Verdict.NOT_CLEAR
        assert label(report).signed is None
        assert label(report).lapsed is not None
        assert "signed off for another figure" in report.steps[0].text


def test_a_signature_that_was_struck_out_or_whose_check_came_clear_does_not_count():
    struck = signed(record=replace(BY, struck="not mine to sign"))
    assert evaluate(struck).verdict is Verdict.NOT_CLEAR
    clear = with_readings(signed(), clay=job().of(ClayReading))
    assert evaluate(clear).verdict is Verdict.CLEAR
    assert label(evaluate(clear)).signed is None


def test_what_was_not_measured_can_be_signed_off_too():
    unread = job(clay=job().of(ClayReading)[:2])
    names = [check.label for check in evaluate(unread).checks if check.required and not check.figure]
    assert names
    for name in names:
        one = replace(signing(label(evaluate(unread), name), "same parts, same print"), key=name, record=BY)
        unread = replace(unread, sign_offs=(*unread.sign_offs, one))
    assert evaluate(unread).verdict is Verdict.SIGNED


def test_nobody_signs_without_a_reason_or_under_a_clear_check():
    with pytest.raises(FaultsError, match="Give the reason"):
        signing(label(evaluate(SHORT)), "  ")
    with pytest.raises(FaultsError, match="needs no signature"):
        signing(label(evaluate(job())), "why not")
    with pytest.raises(FaultsError, match="At most 200"):
        SignOff(check="x", state=State.SHORT, reason="x" * 201)


def test_signatures_and_every_kind_of_change_go_through_a_job_file():
    gasket = FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.0)
    changes = (
        Change(key="g", kind=GASKET_CHANGED, order=1, gasket=gasket, front_mm=thou(4), rear_mm=thou(4)),
        Change(key="r", kind=RELIEF_DEEPENED, side=Side.INTAKE, amount=0.5),
        Change(key="c", kind=CAM_MOVED, amount=-4.0),
    )
    whole = replace(signed(), changes=changes)
    assert read_job(write_job(whole)) == whole
