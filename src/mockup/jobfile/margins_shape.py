"""The shape of the margin sheet in a job file: which one, and this build's edits of it."""

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, ValidationInfo, WithJsonSchema

import mockup.checks  # noqa: F401, limits are declared with the checks that are judged by them
from mockup.jobfile.lengths import LENGTH_SCHEMA, read_length
from mockup.limits.margins import Edit, LimitName, MarginSheet
from mockup.limits.sheets import READY_MADE


def _sheet(key: str) -> str:
    if key not in READY_MADE:
        raise ValueError(f"No margin sheet is called {key}. There are: {', '.join(READY_MADE)}.")
    return key


def _value(raw: Any, info: ValidationInfo) -> float | None:
    """A limit's figure: a length or a ratio, as the limit is one or the other; null takes it away."""
    limit = info.data.get("limit")
    if raw is None:
        return None
    if limit is None or limit.is_length:
        return read_length(raw, info)
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        raise ValueError("A ratio is a plain number.")  # noqa: TRY004, pydantic turns a ValueError into a fault
    return float(raw)


class EditShape(BaseModel):
    """One limit changed for this build; null takes the limit away."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    limit: LimitName
    value: Annotated[
        float | None,
        BeforeValidator(_value),
        WithJsonSchema({"anyOf": [*LENGTH_SCHEMA["anyOf"], {"type": "null"}]}),
    ]
    reason: Annotated[str, Field(max_length=200)] = ""


class MarginsShape(BaseModel):
    """Which margin sheet, and this build's edits of it."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    sheet: Annotated[
        str, Field(min_length=1, max_length=80), AfterValidator(_sheet), WithJsonSchema({"enum": list(READY_MADE)})
    ]
    edits: Annotated[list[EditShape], Field(max_length=100)] = Field(default=[])

    def core(self) -> MarginSheet:
        """The sheet with this build's edits."""
        return READY_MADE[self.sheet].edited({edit.limit: Edit(edit.value, edit.reason) for edit in self.edits})
