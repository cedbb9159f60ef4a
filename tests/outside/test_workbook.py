"""The workbook's formulas, worked out by another engine, give the program's figures.

The engine: formulas, a general-purpose interpreter of spreadsheet formulas. The reader: openpyxl.
"""

import io

import formulas
import numpy as np
import openpyxl
import pytest

from mockup.checks.compression import RATIO_CHECK
from mockup.evaluate import evaluate
from mockup.formats.workbook import to_workbook
from mockup.formats.workbook_formulas import CORRECTIONS, QUENCH, RATIO, VERDICT
from mockup.quantity.value import Unit
from tests.making import short_eight


@pytest.fixture(scope="module", params=list(Unit))
def worked_out(request, tmp_path_factory):
    """A report, and every cell of its workbook by sheet and address, formulas worked out."""
    report = evaluate(short_eight(unit=request.param))
    path = tmp_path_factory.mktemp("book") / "book.xlsx"
    path.write_bytes(to_workbook(report))
    solved = formulas.ExcelModel().loads(str(path)).finish().calculate()
    cells = {}
    for sheet in openpyxl.load_workbook(path):
        for row in sheet.iter_rows():
            for cell in row:
                found = solved.get(f"'[book.xlsx]{sheet.title.upper()}'!{cell.coordinate}")
                cells[sheet.title, cell.coordinate] = cell.value if found is None else found.value[0, 0]
    return report, cells


COLUMNS = "ABCDEFGHIJKLM"


def rows(cells, sheet):
    count = max(int(at.lstrip(COLUMNS)) for name, at in cells if name == sheet)
    return [[cells.get((sheet, f"{column}{row}")) for column in COLUMNS] for row in range(2, count + 1)]


def per(report, check):
    return 25.4 if report.job.unit is Unit.INCH and check.kind.is_length else 1.0


def test_every_figure_is_reached_by_its_corrections_and_judged_alike(worked_out):
    report, cells = worked_out
    lines = rows(cells, VERDICT)
    assert [line[0] for line in lines] == [check.label for check in report.checks]
    judged = 0
    for line, check in zip(lines, report.checks, strict=True):
        if check.figure is None:
            continue
        factor = per(report, check)
        assert line[1] * factor == pytest.approx(check.figure.value, abs=1e-9)
        assert line[2] * factor == pytest.approx(check.figure.expanded, abs=1e-9)
        assert line[5] * factor == pytest.approx(check.margin, abs=1e-9)
        assert line[6] in (None, str(check.state))
        judged += line[6] is not None
        assert line[11] == (str(report.job.unit) if check.kind.is_length else "as it is")
    assert judged > 20


def test_ratio_and_quench_are_worked_out_from_the_inputs(worked_out):
    report, cells = worked_out
    ratios = [check for check in report.checks if check.kind is RATIO_CHECK and check.figure]
    assert len(ratios) == len(rows(cells, RATIO)) == 8
    for line, check in zip(rows(cells, RATIO), ratios, strict=True):
        assert line[8] == pytest.approx(check.figure.value, abs=1e-9) == pytest.approx(line[9])
    for line in rows(cells, QUENCH):
        assert line[3] == pytest.approx(line[5], abs=1e-9)
    assert not any(isinstance(value, str) and value.startswith("#") for value in cells.values())


def test_each_formula_comes_with_what_it_works_out_to(worked_out):
    report, cells = worked_out
    content = io.BytesIO(to_workbook(report))
    formulas_of, values_of = (openpyxl.load_workbook(content, data_only=only) for only in (False, True))
    count = 0
    for sheet in formulas_of:
        for row in sheet.iter_rows():
            for cell in row:
                if cell.data_type == "f":
                    kept, found = values_of[sheet.title][cell.coordinate].value, cells[sheet.title, cell.coordinate]
                    assert kept == found or kept == pytest.approx(found, rel=1e-9, abs=1e-12), cell.coordinate
                    count += 1
    assert count > 150


def test_each_line_of_the_verdict_says_what_moves_it(worked_out):
    report, cells = worked_out
    formula_lines = openpyxl.load_workbook(io.BytesIO(to_workbook(report)))[VERDICT]
    said = {}
    for at, check in enumerate(report.checks, start=2):
        if check.figure is None:
            continue
        words, text = cells[VERDICT, f"M{at}"], str(formula_lines[f"B{at}"].value)
        said.setdefault(words, set()).add(text.partition("!")[0])
    assert said.pop("Inputs") == {f"={RATIO}"}
    assert said.pop("Corrections, and not Inputs") == {f"={CORRECTIONS}"}
    assert not said or all("=" not in text for text in said["nothing: the program’s own figure"])


def test_no_formula_reaches_outside_the_workbook(worked_out):
    _, cells = worked_out
    assert {sheet for sheet, _ in cells} >= {RATIO, QUENCH, CORRECTIONS, VERDICT, "deck", "clay"}
    assert all(np.isfinite(value) for value in cells.values() if isinstance(value, float))
