"""Reading a job file: either a Job, or every fault in it with its place."""

import json
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.formats.job_shape import core_of, job_shape
from mockup.job import Job
from mockup.quantity.fields import fields_of
from mockup.quantity.value import Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS
from mockup.readings.kinds import READING_KINDS

LONGEST_FILE = 5_000_000
"""Longest file that is read [characters]; a longer one is refused unread."""


def read_job(text: str) -> Job:
    """Return the job in a job file's text.

    Raises FaultsError with path and reason of each fault.
    """
    raw = as_version_3(_parsed(text))
    try:
        shape = job_shape().model_validate(raw, context={"unit": _unit(raw), "version": raw.get("version")})
    except ValidationError as error:
        raise FaultsError([*faults_of(error), *_reference_faults(raw)]) from error
    return _job(shape)


def as_version_3(raw: dict[str, Any]) -> dict[str, Any]:
    """Return the file's data with the names of version 3.

    ``version`` stays, since version 1 also counts lengths otherwise.
    """
    if raw.get("version") not in (1, 2):
        return raw
    found: dict[str, Any] = _renamed(raw, "margins", "limits")
    if "margins" in raw and "limits" not in raw:
        found["limits"] = _renamed(found["limits"], "sheet", "set")
    if isinstance(found.get("sign_offs"), list):
        found["sign_offs"] = [_renamed(one, "daylight", "margin") for one in found["sign_offs"]]
    return found


def _renamed(data: Any, old: str, new: str) -> Any:
    # A file with both names keeps both, and is refused: neither value is chosen silently.
    if not isinstance(data, dict) or new in data:
        return data
    return {new if name == old else name: value for name, value in data.items()}


def _unit(raw: dict[str, Any]) -> Unit:
    return Unit.INCH if raw.get("unit") == Unit.INCH else Unit.MILLIMETRE


def _parsed(text: str) -> dict[str, Any]:
    if len(text) > LONGEST_FILE:
        raise FaultsError([Fault("", "The file is too large to be a job file.")])
    if "\x00" in text or "\\u0000" in text:
        raise FaultsError(
            [Fault("", "A text in it contains a NUL character, which cannot be typed or stored. Remove it.")]
        )
    # Some editors put a byte-order mark before everything.
    text = text.removeprefix("\ufeff")
    try:
        raw = json.loads(text, object_pairs_hook=_no_repeats)
    except json.JSONDecodeError as error:
        raise FaultsError([Fault(f"line {error.lineno}", f"Not JSON: {error.msg}, column {error.colno}.")]) from error
    except (RecursionError, ValueError) as error:
        raise FaultsError([Fault("", f"Not a job file: {error}.")]) from error
    if not isinstance(raw, dict):
        raise FaultsError([Fault("", "A job file holds one JSON object.")])
    return raw


def _no_repeats(pairs: Sequence[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise ValueError(f"“{key}” occurs twice in one object")
        found[key] = value
    return found


def faults_of(error: ValidationError) -> Iterator[Fault]:
    """Yield the faults of a validation error: path and message."""
    return faults_in(error.errors())


def faults_in(details: Iterable[ErrorDetails]) -> Iterator[Fault]:
    """Like ``faults_of``, from the error's details."""
    for detail in details:
        where = [str(part) for part in detail["loc"]]
        nested = detail.get("ctx", {}).get("faults")
        if nested:
            for fault in nested:
                name = ".".join(part.removesuffix("_mm") for part in fault.path.split(".") if part)
                yield Fault(".".join([*where, name] if name else where), fault.message)
        else:
            yield Fault(".".join(where), _message(detail))


_PLAIN_WORDS = {
    "missing": "This is required.",
    "extra_forbidden": "There is no such field in a job file.",
    "finite_number": "This is not a finite number.",
    "model_type": "Named values in braces are expected here.",
    "list_type": "A list in brackets is expected here.",
    "int_type": "A whole number is expected here.",
    "float_type": "A number is expected here.",
    "string_type": "A text is expected here.",
    "bool_parsing": "This must be true or false.",
    "bool_type": "This must be true or false.",
}


def _message(detail: ErrorDetails) -> str:
    if detail["type"] == "too_long":
        told = detail.get("ctx", {})
        return f"At most {told['max_length']:,} here; these are {told['actual_length']:,}. Split the file."
    if detail["type"] in _PLAIN_WORDS:
        return _PLAIN_WORDS[detail["type"]]
    return detail["msg"].removeprefix("Value error, ")


def _reference_faults(raw: dict[str, Any]) -> Iterator[Fault]:
    """Yield readings that name a missing cylinder or mock-up, even beside other faults."""
    engine = raw.get("engine")
    cylinders = engine.get("cylinders") if isinstance(engine, dict) else None
    keys = (mockup.get("key") for mockup in _entries(raw, "mockups"))
    mockups = {key for key in keys if isinstance(key, str)}
    for kind in READING_KINDS:
        for at, entry in enumerate(_entries(raw, kind.listed)):
            cylinder = entry.get("cylinder")
            if isinstance(cylinder, int) and isinstance(cylinders, int) and not 1 <= cylinder <= cylinders:
                yield Fault(f"{kind.listed}.{at}.cylinder", f"There is no cylinder {cylinder}.")
            if kind.in_a_mockup and isinstance(entry.get("mockup"), str) and entry["mockup"] not in mockups:
                yield Fault(f"{kind.listed}.{at}.mockup", f"There is no mock-up called {entry['mockup']}.")


def _entries(raw: dict[str, Any], name: str) -> list[dict[str, Any]]:
    entries = raw.get(name)
    return [entry if isinstance(entry, dict) else {} for entry in entries] if isinstance(entries, list) else []


def _job(shape: Any) -> Job:
    edits = [edit.limit for edit in shape.limits.edits]
    refuse(
        Fault("limits.edits", f"{limit} is edited twice.")
        for limit in sorted({edit for edit in edits if edits.count(edit) > 1})
    )
    own = [instrument.core() for instrument in shape.instruments]
    given: dict[str, Any] = {
        "limits": shape.limits.core(),
        "readings": tuple(one for kind in READING_KINDS for one in _keyed(getattr(shape, kind.listed), kind.listed)),
        "sign_offs": tuple(_keyed(shape.sign_offs, "sign_offs")),
        "instruments": {**DEFAULT_INSTRUMENTS, **{instrument.key: instrument for instrument in own}},
    }
    others = [held for held in fields_of(Job) if held.name not in given]
    return Job(**given, **{held.name: core_of(getattr(shape, held.plain_name)) for held in others})


def _keyed(shapes: Sequence[Any], name: str) -> Iterator[Any]:
    """Yield readings; those without a key get one from their place in the file."""
    for at, shape in enumerate(shapes):
        yield shape.core() if shape.key else shape.core(key=f"{name}.{at}")
