"""The shape of the limits in a job file: which set, and this build's edits of it."""

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, ValidationInfo, WithJsonSchema

import mockup.checks  # noqa: F401, limits are declared with the checks that are judged by them
from mockup.formats.lengths import LENGTH_SCHEMA, read_length
from mockup.limits.limit_set import Edit, LimitName, LimitSet
from mockup.limits.schools import READY_MADE


def _known(key: str) -> str:
    if key not in READY_MADE:
        raise ValueError(f"There are no limits called {key}, only: {', '.join(READY_MADE)}.")
    return key


def _value(raw: Any, info: ValidationInfo) -> float | None:
    """Return a limit's figure, a length or a ratio by its declaration; null removes it."""
    limit = info.data.get("limit")
    if raw is None:
        return None
    if limit is None or limit.is_length:
        return read_length(raw, info)
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        raise ValueError("A ratio or a share is a plain number.")  # noqa: TRY004, pydantic turns a ValueError into a fault
    return float(raw)


class EditShape(BaseModel):
    """One limit changed for this build; null removes the limit."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    limit: LimitName
    value: Annotated[
        float | None,
        BeforeValidator(_value),
        WithJsonSchema({"anyOf": [*LENGTH_SCHEMA["anyOf"], {"type": "null"}]}),
    ]
    reason: Annotated[str, Field(max_length=200)] = ""


class LimitsShape(BaseModel):
    """Which set of limits, and this build's edits of it."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    key: Annotated[
        str,
        Field(min_length=1, max_length=80, alias="set"),
        AfterValidator(_known),
        WithJsonSchema({"enum": list(READY_MADE)}),
    ]
    edits: Annotated[list[EditShape], Field(max_length=100)] = Field(default=[])

    def core(self) -> LimitSet:
        """Return the set with this build's edits."""
        return READY_MADE[self.key].edited({edit.limit: Edit(edit.value, edit.reason) for edit in self.edits})
