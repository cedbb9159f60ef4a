"""A cam, an engine or a gauge format in a shelf row: the core's record as JSON."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import TypeAdapter

from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft
from mockup.quantity.gauge_lines import GaugeWay

_CAM = TypeAdapter(Camshaft)
_ENGINE = TypeAdapter(Engine)
_GAUGE_WAY = TypeAdapter(GaugeWay)


def kept_cam(cam: Camshaft) -> dict[str, Any]:
    """Return a cam as JSON data."""
    found: dict[str, Any] = _CAM.dump_python(cam, mode="json")
    return found


def cam_of(kept: Mapping[str, Any], name: str) -> Camshaft:
    """Return the cam in JSON data, called ``name``."""
    return replace(_CAM.validate_python(kept), name=name)


def kept_engine(engine: Engine) -> dict[str, Any]:
    """Return an engine as JSON data."""
    found: dict[str, Any] = _ENGINE.dump_python(engine, mode="json")
    return found


def engine_of(kept: Mapping[str, Any]) -> Engine:
    """Return the engine in JSON data."""
    return _ENGINE.validate_python(kept)


def kept_gauge_way(way: GaugeWay) -> dict[str, Any]:
    """Return a gauge format as JSON data."""
    found: dict[str, Any] = _GAUGE_WAY.dump_python(way, mode="json")
    return found


def gauge_way_of(kept: Mapping[str, Any]) -> GaugeWay:
    """Return the gauge format in JSON data."""
    return _GAUGE_WAY.validate_python(kept)
