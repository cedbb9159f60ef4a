"""The schema of the job file refuses nothing that is read, and little less."""

import json

import jsonschema
import pytest

from launch.schema import SCHEMA_PATH, schema_text
from mockup.base.faults import FaultsError
from mockup.formats.job_read import read_job
from mockup.formats.job_write import job_data
from tests.making import twelve
from tests.making_jobs import EXAMPLE, data


def test_the_schema_in_the_documentation_is_the_one_the_program_reads_by():
    assert SCHEMA_PATH.read_text() == schema_text(), "run: python -m launch.schema"


def test_the_schema_takes_what_is_written_and_refuses_what_is_not():
    validator = jsonschema.Draft202012Validator(json.loads(SCHEMA_PATH.read_text()))
    for example in (data(), json.loads(EXAMPLE.read_text()), job_data(twelve())):
        validator.validate(json.loads(json.dumps(example)))
    for bad in (data(version=4), data(colour="red"), data(unit="furlong")):
        assert not validator.is_valid(bad)


WRONG = (None, "", -1, 0, 1e9, -1e9, 1.5, True, "x", "0.1", "5 mm", "-5 mm", [], {}, 99, "A" * 300)


def with_one_part_changed(whole):
    """The same file many times, a part of it another thing each time."""

    def paths(node, path=()):
        children = node.items() if isinstance(node, dict) else enumerate(node[:2]) if isinstance(node, list) else ()
        for key, child in children:
            yield (*path, key)
            yield from paths(child, (*path, key))

    for path in paths(whole):
        for wrong in WRONG:
            other = json.loads(json.dumps(whole))
            node = other
            for key in path[:-1]:
                node = node[key]
            node[path[-1]] = wrong
            yield path, other


def test_the_schema_refuses_nothing_that_the_reader_takes_and_little_less():
    """What the schema cannot say: missing mock-ups and instruments, a record's own bounds."""
    validator = jsonschema.Draft202012Validator(json.loads(SCHEMA_PATH.read_text()))
    too_strict, too_lax, count = [], [], 0
    for at, (path, other) in enumerate(with_one_part_changed(json.loads(EXAMPLE.read_text()))):
        if at % 7:
            continue
        count += 1
        by_schema = validator.is_valid(other)
        try:
            read_job(json.dumps(other))
        except FaultsError:
            too_lax += [path] if by_schema else []
        else:
            too_strict += [] if by_schema or path in (("deck", 0, "clearance"), ("deck", 1, "clearance")) else [path]
    assert too_strict == []
    assert len(too_lax) < 0.12 * count, too_lax


@pytest.mark.parametrize(
    ("path", "wrong"),
    [
        (("engine", "cylinders"), 40),
        (("engine", "bore"), 0),
        (("engine", "stroke"), "-3 in"),
        (("engine", "pin_offset"), 400),
        (("clay", 0, "cylinder"), 0),
        (("clay", 0, "valve"), 9),
        (("limits", "set"), "none such"),
    ],
)
def test_the_schema_knows_bounds_and_names(path, wrong):
    validator = jsonschema.Draft202012Validator(json.loads(SCHEMA_PATH.read_text()))
    other = json.loads(EXAMPLE.read_text())
    node = other
    for key in path[:-1]:
        node = node[key]
    node[path[-1]] = wrong
    assert not validator.is_valid(other)
    with pytest.raises(FaultsError):
        read_job(json.dumps(other))
