"""The core's own enumerations as choices of a model field, with words for people."""

from collections.abc import Mapping
from enum import StrEnum


def choices(enumeration: type[StrEnum], words: Mapping[StrEnum, str] | None = None) -> list[tuple[str, str]]:
    """Return the choices of a field: the stored value is the core's, the words are for the form."""
    return [(str(member), (words or {}).get(member, str(member))) for member in enumeration]
