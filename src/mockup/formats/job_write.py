"""Writing a job as a job file.

Lengths are text with their unit, so that the file reads back the same.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from mockup import PROGRAM
from mockup.engine.valves import Place
from mockup.formats.job_shape import FORMAT, VERSION
from mockup.job import Job
from mockup.limits.limit_set import LimitName, LimitSet
from mockup.quantity.fields import FieldInfo, Measure, fields_of
from mockup.quantity.shown import format_exact
from mockup.quantity.value import Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Record


def write_job(job: Job) -> str:
    """Return a job file's text, which ``read_job`` reads back as an equal job."""
    return json.dumps(job_data(job) | {"program": PROGRAM}, indent=2, ensure_ascii=False) + "\n"


def job_data(job: Job) -> dict[str, Any]:
    """Return the job as plain JSON data."""
    data: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    for held in fields_of(Job):
        if held.name == "limits":
            data["limits"] = {"set": job.limits.key, "edits": _edits(job.limits, job.unit)}
        elif held.name == "readings":
            lists = {kind.listed: job.of(kind.core) for kind in READING_KINDS}
            data |= {listed: [part_data(reading, job.unit) for reading in found] for listed, found in lists.items()}
        elif held.name == "instruments":
            data["instruments"] = _instruments(job.instruments, job.unit)
        else:
            data[held.plain_name] = _plain(held, job, job.unit)
    return data


def part_data(part: Any, unit: Unit) -> dict[str, Any]:
    """Return one core record under the names of a file, lengths as text in ``unit``."""
    data: dict[str, Any] = {}
    for held in fields_of(type(part)):
        value = getattr(part, held.name)
        if isinstance(value, Record):
            data |= _record(value)
        elif isinstance(value, Place):
            data |= {"cylinder": value.cylinder, "side": value.side, "valve": value.number}
        else:
            data[held.plain_name] = _plain(held, part, unit)
    return data


def _plain(held: FieldInfo, part: Any, unit: Unit) -> Any:
    value = getattr(part, held.name)
    if isinstance(value, tuple):
        return [_one(one, held, part, unit) for one in value]
    return None if value is None else _one(value, held, part, unit)


def _one(value: Any, held: FieldInfo, part: Any, unit: Unit) -> Any:
    if held.measure is Measure.DECK:
        return _deck(value, unit)
    if held.measure is Measure.LENGTH or (held.measure is Measure.AMOUNT and part.kind.is_length):
        return format_exact(value, unit)
    return part_data(value, unit) if hasattr(value, "__dataclass_fields__") else value


def _record(record: Record) -> dict[str, Any]:
    kept = {name: text for name, text in asdict(record).items() if text}
    return {"record": kept} if kept else {}


def _edits(limits: LimitSet, unit: Unit) -> list[dict[str, Any]]:
    def value(name: LimitName, figure: float | None) -> str | float | None:
        return format_exact(figure, unit) if name.is_length and figure is not None else figure

    return [
        {"limit": name, "value": value(name, edit.value), "reason": edit.reason} for name, edit in limits.edits.items()
    ]


def _deck(clearance_mm: float, unit: Unit) -> str:
    way = "down" if clearance_mm > 0 else "out"
    return f"{format_exact(abs(clearance_mm), unit)} {way}" if clearance_mm else "zero"


def _instruments(instruments: Mapping[str, Instrument], unit: Unit) -> list[dict[str, Any]]:
    return [
        part_data(instrument, unit)
        for key, instrument in instruments.items()
        if DEFAULT_INSTRUMENTS.get(key) != instrument
    ]
