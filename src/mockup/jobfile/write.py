"""Writing a job as a job file: lengths as text with their unit, so that the file reads back the same."""

import json
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from mockup.checks.margins import LimitName, MarginSheet
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp
from mockup.engine.valves import ValveRow
from mockup.job import Job
from mockup.jobfile.shape import FORMAT, VERSION
from mockup.quantity.shown import format_exact
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.record import Reading
from mockup.readings.volumes import VolumeReading


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
        "engine": _engine(job.engine, unit),
        "margins": {"sheet": job.sheet.key, "edits": _edits(job.sheet, unit)},
        "final_gasket": _gasket(job.final_gasket, unit) if job.final_gasket else None,
        "mockups": [_mockup(mockup, unit) for mockup in job.mockups],
        "deck": [_deck(reading, unit) for reading in job.deck],
        "clay": [_clay(reading, unit) for reading in job.clay],
        "volumes": [_volume(reading) for reading in job.volumes],
        "instruments": _instruments(job.instruments, unit),
    }


def _engine(engine: Engine, unit: Unit) -> dict[str, Any]:
    return {
        "layout": engine.layout,
        "numbering": engine.numbering,
        "cylinders": engine.cylinders,
        "bore": format_exact(engine.bore_mm, unit),
        "stroke": format_exact(engine.stroke_mm, unit),
        "rod_length": format_exact(engine.rod_length_mm, unit),
        "pin_offset": format_exact(engine.pin_offset_mm, unit),
        "rocker_ratio": engine.rocker_ratio,
        "intake": _row(engine.intake),
        "exhaust": _row(engine.exhaust),
    }


def _row(row: ValveRow) -> dict[str, Any]:
    return asdict(row)


def _edits(sheet: MarginSheet, unit: Unit) -> list[dict[str, Any]]:
    def value(name: LimitName, figure: float | None) -> str | float | None:
        return format_exact(figure, unit) if name.is_length and figure is not None else figure

    return [
        {"limit": name, "value": value(name, edit.value), "reason": edit.reason} for name, edit in sheet.edits.items()
    ]


def _gasket(gasket: FinalGasket, unit: Unit) -> dict[str, Any]:
    return {
        "name": gasket.name,
        "compressed": format_exact(gasket.compressed_mm, unit),
        "bore": format_exact(gasket.bore_mm, unit),
    }


def _mockup(mockup: MockUp, unit: Unit) -> dict[str, Any]:
    data = asdict(mockup)
    data["gasket"] = format_exact(data.pop("gasket_mm"), unit)
    data["lash"] = format_exact(data.pop("lash_mm"), unit)
    return data


def _common(reading: Reading) -> dict[str, Any]:
    record = {name: text for name, text in asdict(reading.record).items() if text}
    return {"key": reading.key, **({"record": record} if record else {})}


def _deck(reading: DeckReading, unit: Unit) -> dict[str, Any]:
    way = "down" if reading.clearance_mm > 0 else "out"
    shown = f"{format_exact(abs(reading.clearance_mm), unit)} {way}" if reading.clearance_mm else "zero"
    return {
        **_common(reading),
        "cylinder": reading.cylinder,
        "clearance": shown,
        "instrument": reading.instrument,
    }


def _clay(reading: ClayReading, unit: Unit) -> dict[str, Any]:
    return {
        **_common(reading),
        "mockup": reading.mockup,
        "cylinder": reading.place.cylinder,
        "side": reading.place.side,
        "valve": reading.place.number,
        "gap": reading.gap,
        "thickness": format_exact(reading.thickness_mm, unit),
        "instrument": reading.instrument,
    }


def _volume(reading: VolumeReading) -> dict[str, Any]:
    return {
        **_common(reading),
        "part": reading.part,
        "cc": reading.cc,
        "cylinder": reading.cylinder,
        "known": reading.known,
    }


def _instruments(instruments: Mapping[str, Instrument], unit: Unit) -> list[dict[str, Any]]:
    return [
        {
            "key": instrument.key,
            "name": instrument.name,
            "resolution": format_exact(instrument.resolution_mm, unit),
            "accuracy": format_exact(instrument.accuracy_mm, unit),
        }
        for key, instrument in instruments.items()
        if DEFAULT_INSTRUMENTS.get(key) != instrument
    ]
