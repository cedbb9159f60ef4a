"""The API: what a key reads and writes, in whose name, and who gets nothing.

Its description is held against the OpenAPI specification by openapi-spec-validator, and calls that schemathesis makes
up from it are sent to it: every answer is one the description names.
"""

import json
from uuid import uuid4

import pytest
import schemathesis
from django.core.signals import request_finished, request_started
from django.db import close_old_connections
from django.test import Client
from django.urls import reverse
from django_scopes import scope, scopes_disabled
from hypothesis import HealthCheck, given, settings
from openapi_spec_validator import validate
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from mockup.evaluate import evaluate
from mockup.formats.job_write import job_data
from mockup.formats.report_json import report_data
from mockup.readings.clay import ClayReading
from tests import making_rows as making
from tests.web import words
from tests.web.programs import Program, faults
from web.builds.assemble import assemble
from web.builds.models import Build, Entry
from web.shops.models import Person, ProgramKey
from web.shops.program_keys import end_key, make_key
from web.wsgi import application

AS_DESCRIBED = [status_code_conformance, content_type_conformance, response_schema_conformance]


@pytest.fixture
def program(member):
    return Program(make_key(member, "caliper script", writes=True))


@pytest.fixture
def reader(member):
    return Program(make_key(member, "board on the wall", writes=False))


def clay(thickness="0.1045 in", **more):
    return {"kind": "clay", "mockup": "A", "cylinder": 1, "side": "intake", "thickness": thickness} | more


def test_builds_reports_and_readings_are_told_as_the_core_has_them(program, member, whole):
    (told,) = program.get("builds").json()["builds"]
    assert (told["id"], told["name"], told["state"]) == (whole.pk, "Bittern", "clear")
    assert program.get(f"builds/{whole.pk}").json() == told
    with scope(shop=member.shop):
        job = assemble(whole)
    assert program.get(f"builds/{whole.pk}/report").json() == json.loads(json.dumps(report_data(evaluate(job))))
    assert program.get(f"builds/{whole.pk}/job").json() == json.loads(json.dumps(job_data(job)))
    readings = program.get(f"builds/{whole.pk}/readings").json()["readings"]
    assert [one["key"] for one in readings] == [one.key for one in job.readings]
    assert program.get("builds", q="nothing of the kind").json()["builds"] == []
    assert program.get("builds", page=2).status_code == 404
    assert faults(program.get("builds", state="glorious"))[0][0] == "state"


def test_what_a_program_writes_stands_in_the_book_as_its_own_and_is_judged(program, bench, member, whole):
    answer = program.post(f"builds/{whole.pk}/readings", {"readings": [clay("70 thou"), clay(2.6)]})
    assert answer.status_code == 201
    assert answer.json()["state"] == "not clear"
    with scope(shop=member.shop):
        first, second = assemble(whole).of(ClayReading)[-2:]
        assert whole.summary.__class__.objects.get(build=whole).state == "not clear"
    assert [first.key, second.key] == answer.json()["keys"]
    assert first.record.by == f"caliper script of {member.shown_name}"
    assert second.thickness_mm == 2.6
    assert f"caliper script of {member.shown_name}" in words(bench.get(reverse("history", args=[whole.pk])))


def test_a_reading_sent_twice_is_written_once(program, whole):
    sent = {"readings": [clay(token=str(uuid4()))]}
    first, second = (program.post(f"builds/{whole.pk}/readings", sent).json()["keys"] for _ in range(2))
    assert first == second


@pytest.mark.parametrize(
    ("reading", "path", "words"),
    [
        (clay("0.1045"), "readings.1.thickness", "needs its unit"),
        (clay("90 in"), "readings.1.thickness", "Clay of 0 to 40 mm"),
        (clay(cylinder=9), "readings.1.cylinder", "There is no cylinder 9"),
        (clay(mockup="Q"), "readings.1.mockup", "There is no mock-up called Q"),
        (clay(instrument="laser"), "readings.1.instrument", "There is no instrument called laser"),
        (clay(colour="red"), "readings.1.colour", "There is no such field"),
        ({"kind": "foam"}, "readings.1", "does not match any of the expected tags"),
        ({"kind": "deck", "cylinder": 1}, "readings.1.clearance", "This is required"),
    ],
)
def test_nothing_is_written_where_one_of_several_is_wrong(program, whole, reading, path, words):
    with scopes_disabled():
        before = Entry.objects.count()
    answer = program.post(f"builds/{whole.pk}/readings", {"readings": [clay(), reading]})
    assert answer.status_code == 422
    ((at, why),) = faults(answer)
    assert at == path
    assert words in why
    with scopes_disabled():
        assert Entry.objects.count() == before


@pytest.mark.parametrize("bad", ["a\x00b", "a\ud800b"])
def test_texts_that_no_database_keeps_are_refused(program, whole, bad):
    for path, data in (
        ("readings", {"readings": [clay(record={"typed": bad})]}),
        ("readings", {"readings": [clay(spot=bad)]}),
        ("readings/clay-1/strike", {"reason": bad}),
    ):
        answer = program.post(f"builds/{whole.pk}/{path}", json.dumps(data))
        assert answer.status_code in (400, 422), path
        assert faults(answer)
    assert program.post("gauge", json.dumps({"value": bad, "token": str(uuid4())})).status_code in (400, 422)


@pytest.mark.parametrize("body", ["{not json", b"\xff\xfe", "", "[]", "null"])
def test_a_body_that_cannot_be_read_is_told(program, body):
    answer = program.post("gauge", body)
    assert answer.status_code in (400, 422)
    assert faults(answer)


def test_a_reading_is_struck_out_with_who_did_it(program, reader, member, whole):
    with scope(shop=member.shop):
        key = making.lines(whole, "clay")[0].key
    strike = f"builds/{whole.pk}/readings/{key}/strike"
    assert reader.post(strike, {"reason": "dented"}).status_code == 403
    assert program.post(strike, {"reason": "dented"}).json()["struck"].startswith("dented (caliper script of ")
    assert program.post(strike, {"reason": ""}).status_code == 422
    assert program.post(f"builds/{whole.pk}/readings/clay-999999/strike", {"reason": "x"}).status_code == 404
    assert program.post(f"builds/{whole.pk}/readings/gasket-1/strike", {"reason": "x"}).status_code == 404


def test_a_job_file_becomes_a_build_or_is_only_judged(program, member, whole):
    text = json.dumps(program.get(f"builds/{whole.pk}/job").json())
    assert program.post("judge", text).json()["verdict"] == "clear"
    made = program.post("builds", text)
    assert made.status_code == 201
    with scope(shop=member.shop):
        assert Build.objects.count() == 2
    assert faults(program.post("builds", "{}"))
    assert faults(program.post("judge", "not json"))


def test_without_a_key_that_opens_there_is_nothing(bench, member, whole):
    token = make_key(member, "old", writes=True)
    for client in (Client(), bench, Program("made up").client):
        answer = client.get("/api/builds")
        assert (answer.status_code, answer["WWW-Authenticate"]) == (401, "Bearer")
    assert Program(token).get("builds").status_code == 200
    assert Program(token).client.get(reverse("builds")).status_code == 302, "a key opens no page"
    end_key(member, ProgramKey.objects.get(name="old").pk)
    assert Program(token).get("builds").status_code == 401


def test_somebody_who_may_come_in_no_more_takes_their_programs_along(program, member, whole):
    Person.objects.filter(pk=member.pk).update(is_active=False)
    assert program.get("builds").status_code == 401


def test_a_viewers_program_only_reads_and_a_member_made_viewer_writes_no_more(viewer, program, member, whole):
    answer = viewer.post(reverse("me"), {"make-key": "1", "key-name": "mine", "key-writes": "1"})
    assert answer.status_code == 422
    assert "You may only read" in words(answer)
    Person.objects.filter(pk=member.pk).update(role=Person.Role.VIEWER)
    assert program.post(f"builds/{whole.pk}/readings", {"readings": [clay()]}).status_code == 403
    assert program.get("builds").status_code == 200


def test_another_shops_key_gets_404_everywhere(whole, program, member):
    other = Program(make_key(making.person("other", shop_name="Elsewhere"), "theirs", writes=True))
    with scope(shop=member.shop):
        key = making.lines(whole, "clay")[0].key
    for path in ("", "/report", "/job", "/readings"):
        assert program.get(f"builds/{whole.pk}{path}").status_code == 200
        assert other.get(f"builds/{whole.pk}{path}").status_code == 404
    for path, data in (("readings", {"readings": [clay()]}), (f"readings/{key}/strike", {"reason": "x"})):
        assert other.post(f"builds/{whole.pk}/{path}", data).status_code == 404
    assert other.get("builds").json()["builds"] == []


def test_no_key_reads_as_an_option_on_a_command_line(member):
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr("secrets.token_bytes", lambda count: b"\xf8" * count)  # begins "-Pj4" in base64
        assert make_key(member, "gauge", writes=True).isalnum()


def test_a_key_is_made_shown_once_and_ended_on_ones_own_page(bench, member, whole):
    made = bench.post(reverse("me"), {"make-key": "1", "key-name": "caliper script", "key-writes": "1"})
    assert made.status_code == 302
    shown = bench.get(reverse("me"))
    token = shown.context["token"]
    assert token in shown.content.decode()
    assert token not in bench.get(reverse("me")).content.decode()
    assert Program(token).get("builds").status_code == 200
    bench.post(reverse("me"), {"end-key": str(ProgramKey.objects.get().pk)})
    assert Program(token).get("builds").status_code == 401
    assert bench.post(reverse("me"), {"make-key": "1", "key-name": " "}).status_code == 422
    assert bench.post(reverse("me"), {"end-key": "999"}).status_code == 404


def test_the_description_is_what_the_specification_asks(client):
    answer = client.get("/api/openapi.json")
    assert answer.status_code == 200, "it is public"
    validate(answer.json())
    assert len(answer.json()["paths"]) >= 8


@pytest.fixture
def one_connection():
    """Like Django's own test client: a request's end leaves the test's connection open."""
    signals = (request_started, request_finished)
    for signal in signals:
        signal.disconnect(close_old_connections)
    yield
    for signal in signals:
        signal.connect(close_old_connections)


@pytest.mark.parametrize("writes", [True, False])
def test_calls_made_up_from_the_description_get_answers_it_names(member, whole, writes, one_connection):
    token = make_key(member, "made up", writes=writes)
    # Its transport unpacks nothing.
    headers = {"Authorization": f"Bearer {token}", "Accept-Encoding": "identity"}
    schema = schemathesis.openapi.from_wsgi("/api/openapi.json", application)
    operations = [found.ok() for found in schema.get_all_operations()]
    assert len(operations) >= 9
    for operation in operations:

        @settings(max_examples=10, suppress_health_check=list(HealthCheck), database=None)
        @given(case=operation.as_strategy())
        def ask(case):
            if "build_id" in (case.path_parameters or {}):
                case.path_parameters["build_id"] = whole.pk
            response = case.call(headers=headers)
            assert response.status_code < 500
            case.validate_response(response, checks=AS_DESCRIBED)

        ask()
