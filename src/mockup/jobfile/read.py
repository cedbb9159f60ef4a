"""Reading a job file: every fault in it found and named by its place, or a Job."""

import json
from collections.abc import Iterator, Sequence
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from mockup.checks.margins import LimitName
from mockup.faults import Fault, FaultsError, refuse
from mockup.job import IN_A_MOCKUP, READING_LISTS, Job
from mockup.jobfile.shape import JobShape
from mockup.quantity.value import Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS

LONGEST_FILE = 5_000_000
"""Characters; a larger file is refused before it is looked at."""


def read_job(text: str) -> Job:
    """The job in a job file's text. Raises FaultsError with the path and the reason of each fault."""
    raw = _parsed(text)
    try:
        shape = JobShape.model_validate(raw, context={"unit": _unit(raw), "version": raw.get("version")})
    except ValidationError as error:
        raise FaultsError([*_faults(error), *_reference_faults(raw)]) from error
    return _job(shape)


def _unit(raw: dict[str, Any]) -> Unit:
    return Unit.INCH if raw.get("unit") == Unit.INCH else Unit.MILLIMETRE


def _parsed(text: str) -> dict[str, Any]:
    if len(text) > LONGEST_FILE:
        raise FaultsError([Fault("", "The file is too large to be a job file.")])
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
            raise ValueError(f"“{key}” stands twice in one object")
        found[key] = value
    return found


def _faults(error: ValidationError) -> Iterator[Fault]:
    for detail in error.errors():
        where = [str(part) for part in detail["loc"] if part not in _DISCRIMINATED]
        nested = detail.get("ctx", {}).get("faults")
        if nested:
            for fault in nested:
                name = ".".join(part.removesuffix("_mm") for part in fault.path.split(".") if part)
                yield Fault(".".join([*where, name] if name else where), fault.message)
        else:
            yield Fault(".".join(where), _message(detail))


# A tagged union puts its tag into the path; a person looks for the list's place, not for the tag.
_DISCRIMINATED = frozenset(str(name) for name in LimitName)

_PLAIN_WORDS = {
    "missing": "This is required.",
    "extra_forbidden": "There is no such field in a job file.",
    "finite_number": "This is not a finite number.",
}


def _message(detail: ErrorDetails) -> str:
    if detail["type"] in _PLAIN_WORDS:
        return _PLAIN_WORDS[detail["type"]]
    return detail["msg"].removeprefix("Value error, ")


def _reference_faults(raw: dict[str, Any]) -> Iterator[Fault]:
    """Readings that name a cylinder or mock-up the file does not have, found even beside other faults."""
    engine = raw.get("engine")
    cylinders = engine.get("cylinders") if isinstance(engine, dict) else None
    mockups = {mockup.get("key") for mockup in _entries(raw, "mockups")}
    for name in ("deck", "volumes", *IN_A_MOCKUP):
        for at, entry in enumerate(_entries(raw, name)):
            cylinder = entry.get("cylinder")
            if isinstance(cylinder, int) and isinstance(cylinders, int) and not 1 <= cylinder <= cylinders:
                yield Fault(f"{name}.{at}.cylinder", f"There is no cylinder {cylinder}.")
            if name in IN_A_MOCKUP and "mockup" in entry and entry["mockup"] not in mockups:
                yield Fault(f"{name}.{at}.mockup", f"No mock-up is called {entry['mockup']}.")


def _entries(raw: dict[str, Any], name: str) -> list[dict[str, Any]]:
    entries = raw.get(name)
    return [entry if isinstance(entry, dict) else {} for entry in entries] if isinstance(entries, list) else []


def _job(shape: JobShape) -> Job:
    own = [instrument.core() for instrument in shape.instruments]
    edits = [edit.limit for edit in shape.margins.edits]
    refuse(
        Fault("margins.edits", f"{limit} is edited twice.")
        for limit in sorted({e for e in edits if edits.count(e) > 1})
    )
    lists: dict[str, Any] = {name: tuple(_keyed(getattr(shape, name), name)) for name in READING_LISTS}
    return Job(
        name=shape.name,
        unit=shape.unit,
        deck_sign=shape.deck_sign,
        engine=shape.engine.core(),
        sheet=shape.margins.core(),
        final_gasket=shape.final_gasket.core() if shape.final_gasket else None,
        mockups=tuple(mockup.core() for mockup in shape.mockups),
        final_shims=tuple(shims.core() for shims in shape.final_shims),
        changes=tuple(change.core() for change in shape.changes),
        running=shape.running.core() if shape.running else None,
        cam_card=shape.cam_card.core() if shape.cam_card else None,
        lobe_tables=tuple(table.core() for table in shape.lobe_tables),
        cam_steps_deg=tuple(shape.cam_steps_deg),
        pushrod_choice=shape.pushrod_choice.core() if shape.pushrod_choice else None,
        sign_offs=tuple(_keyed(shape.sign_offs, "sign_offs")),
        **lists,
        instruments={**DEFAULT_INSTRUMENTS, **{instrument.key: instrument for instrument in own}},
    )


def _keyed(shapes: Sequence[Any], name: str) -> Iterator[Any]:
    """Readings without a key of their own are called by their place in the file."""
    for at, shape in enumerate(shapes):
        yield (shape if shape.key else shape.model_copy(update={"key": f"{name}.{at}"})).core()
