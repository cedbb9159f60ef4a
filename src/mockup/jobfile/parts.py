"""What every part of a job file's shape is made of: its fields' kinds, and how it becomes the core's own data."""

from dataclasses import fields
from typing import Annotated, Any, ClassVar, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from mockup.faults import FaultsError

MOST_READINGS = 5000
Finite = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(strict=True)]
Words = Annotated[str, Field(max_length=200)]
Name = Annotated[str, Field(min_length=1, max_length=80)]


class Shape(BaseModel):
    """One part of the file: refuses fields it does not know, and values the core refuses.

    ``CORE`` is the core's own class for it. A length is called in the file as in the core, less its ``_mm``.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)
    CORE: ClassVar[Any] = None

    def core(self) -> Any:
        """The part as the core's own data. Raises FaultsError."""
        return None if self.CORE is None else self.CORE(**self.kept())

    def kept(self) -> dict[str, Any]:
        """The fields as the core calls them, parts of their own made into the core's data."""
        known = {field.name for field in fields(self.CORE)}
        return {name if name in known else f"{name}_mm": _core_of(value) for name, value in self}

    @model_validator(mode="after")
    def _the_core_takes_it(self) -> Self:
        try:
            self.core()
        except FaultsError as error:
            raise PydanticCustomError("core", "refused", {"faults": error.faults}) from error
        return self


def _core_of(value: Any) -> Any:
    if isinstance(value, Shape):
        return value.core()
    return tuple(_core_of(one) for one in value) if isinstance(value, list) else value
