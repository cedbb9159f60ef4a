"""Writing a job as a job file: lengths as text with their unit, so that the file reads back the same."""

import json
from collections.abc import Mapping
from dataclasses import asdict, fields
from typing import Any

from mockup.checks.margins import LimitName, MarginSheet
from mockup.engine.changes import Change
from mockup.job import READING_LISTS, Job
from mockup.jobfile.shape import FORMAT, VERSION
from mockup.quantity.shown import format_exact
from mockup.quantity.value import Unit
from mockup.readings.clay import Place
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.record import Record


def write_job(job: Job) -> str:
    """A job file's text, which ``read_job`` reads back as an equal job."""
    return json.dumps(job_data(job), indent=2, ensure_ascii=False) + "\n"


def job_data(job: Job) -> dict[str, Any]:
    """The job as plain JSON data."""
    unit = job.unit
    return {
        "format": FORMAT,
        "version": VERSION,
        "unit": unit,
        "deck_sign": job.deck_sign,
        "name": job.name,
        "engine": _part(job.engine, unit),
        "margins": {"sheet": job.sheet.key, "edits": _edits(job.sheet, unit)},
        "final_gasket": _part(job.final_gasket, unit) if job.final_gasket else None,
        "final_shims": _parts(job.final_shims, unit),
        "changes": _parts(job.changes, unit),
        "running": _part(job.running, unit) if job.running else None,
        "cam_card": _part(job.cam_card, unit) if job.cam_card else None,
        "lobe_tables": _parts(job.lobe_tables, unit),
        "cam_steps_deg": list(job.cam_steps_deg),
        "pushrod_choice": _part(job.pushrod_choice, unit) if job.pushrod_choice else None,
        "mockups": _parts(job.mockups, unit),
        "sign_offs": _parts(job.sign_offs, unit),
        **{name: _parts(getattr(job, name), unit) for name in READING_LISTS},
        "deck": [_part(reading, unit) | {"clearance": _deck(reading, unit)} for reading in job.deck],
        "instruments": _instruments(job.instruments, unit),
    }


def _part(part: Any, unit: Unit) -> dict[str, Any]:
    """One frozen piece of the core as the file calls it: lengths with their unit and without their ``_mm``."""
    data = {}
    for field in fields(part):
        if not field.metadata.get("file", True):
            continue
        value = getattr(part, field.name)
        if field.name == "amount" and isinstance(part, Change) and part.kind.is_length:
            data["amount"] = _length(value, unit)
        elif field.name.endswith("_mm"):
            data[field.name.removesuffix("_mm")] = _length(value, unit)
        elif isinstance(value, Record):
            data |= _record(value)
        elif isinstance(value, Place):
            data |= {"cylinder": value.cylinder, "side": value.side, "valve": value.number}
        else:
            data[field.name] = _plain(value, unit)
    return data


def _length(value: Any, unit: Unit) -> Any:
    if isinstance(value, tuple):
        return [format_exact(one, unit) for one in value]
    return None if value is None else format_exact(value, unit)


def _plain(value: Any, unit: Unit) -> Any:
    if isinstance(value, tuple):
        return [_plain(one, unit) for one in value]
    return _part(value, unit) if hasattr(value, "__dataclass_fields__") else value


def _parts(parts: tuple[Any, ...], unit: Unit) -> list[dict[str, Any]]:
    return [_part(part, unit) for part in parts]


def _record(record: Record) -> dict[str, Any]:
    kept = {name: text for name, text in asdict(record).items() if text}
    return {"record": kept} if kept else {}


def _edits(sheet: MarginSheet, unit: Unit) -> list[dict[str, Any]]:
    def value(name: LimitName, figure: float | None) -> str | float | None:
        return format_exact(figure, unit) if name.is_length and figure is not None else figure

    return [
        {"limit": name, "value": value(name, edit.value), "reason": edit.reason} for name, edit in sheet.edits.items()
    ]


def _deck(reading: DeckReading, unit: Unit) -> str:
    way = "down" if reading.clearance_mm > 0 else "out"
    return f"{format_exact(abs(reading.clearance_mm), unit)} {way}" if reading.clearance_mm else "zero"


def _instruments(instruments: Mapping[str, Instrument], unit: Unit) -> list[dict[str, Any]]:
    return [
        _part(instrument, unit) for key, instrument in instruments.items() if DEFAULT_INSTRUMENTS.get(key) != instrument
    ]
