"""A cam or an engine as a row of the shelf keeps it: the core's own record, as JSON."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import TypeAdapter

from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft

_CAM = TypeAdapter(Camshaft)
_ENGINE = TypeAdapter(Engine)


def kept_cam(cam: Camshaft) -> dict[str, Any]:
    """A cam as JSON data."""
    found: dict[str, Any] = _CAM.dump_python(cam, mode="json")
    return found


def cam_of(kept: Mapping[str, Any], name: str) -> Camshaft:
    """The cam that such data is of, called ``name``."""
    return replace(_CAM.validate_python(kept), name=name)


def kept_engine(engine: Engine) -> dict[str, Any]:
    """An engine as JSON data."""
    found: dict[str, Any] = _ENGINE.dump_python(engine, mode="json")
    return found


def engine_of(kept: Mapping[str, Any]) -> Engine:
    """The engine that such data is of."""
    return _ENGINE.validate_python(kept)
