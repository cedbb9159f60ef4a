"""A cam as a row of the shelf keeps it: the core's own record, as JSON."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import TypeAdapter

from mockup.engine.camshaft import Camshaft

_CAM = TypeAdapter(Camshaft)


def kept_cam(cam: Camshaft) -> dict[str, Any]:
    """A cam as JSON data."""
    found: dict[str, Any] = _CAM.dump_python(cam, mode="json")
    return found


def cam_of(kept: Mapping[str, Any], name: str) -> Camshaft:
    """The cam that such data is of, called ``name``."""
    return replace(_CAM.validate_python(kept), name=name)
