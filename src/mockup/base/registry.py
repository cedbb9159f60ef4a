"""The registry of kinds: each is declared in one module with everything the program needs to know about it.

A kind is a string, the word people read, with its declared attributes. It is reached by its constant
(``ChangeKind.DECK_CUT``) once its module is imported. A new kind is a new module, and no list has to be edited.
"""

from collections.abc import Iterator
from inspect import get_annotations
from typing import Any, Self, TypeVar

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

K = TypeVar("K")


class _Declared(type):
    """Look kinds up by constant, and iterate over them in their declared order."""

    def __init__(cls, name: str, bases: tuple[type, ...], space: dict[str, Any]) -> None:
        super().__init__(name, bases, space)
        cls.kinds: dict[str, Any] = {}

    def __iter__(cls: type[K]) -> Iterator[K]:
        return iter(sorted(cls.__dict__["kinds"].values(), key=lambda kind: float(kind.order)))

    def __len__(cls) -> int:
        return len(cls.kinds)

    def __contains__(cls, words: object) -> bool:
        return words in cls.kinds

    def __getattr__(cls: type[K], constant: str) -> K:
        kinds: dict[str, Any] = cls.__dict__.get("kinds", {})
        found: dict[str, K] = {kind.name: kind for kind in kinds.values()}
        if constant not in found:
            raise AttributeError(f"No {cls.__name__} is declared as {constant}; there are: {', '.join(found)}.")
        return found[constant]

    def names(cls) -> list[str]:
        """Return the constants of its kinds."""
        return [kind.name for kind in cls.__dict__.get("kinds", {}).values()]


class Declared(str, metaclass=_Declared):
    """One kind of its class, as a string; ``name`` is its constant, ``order`` its position among the others.

    The class's annotations are what must be declared; those with a value may be left out.
    """

    name: str
    order: float

    def __new__(cls, words: str, *, name: str, order: float, **declared: Any) -> Self:
        """Declare a kind. Raises ValueError where a declaration is missing, or its words or constant are taken."""
        wanted = get_annotations(cls)
        missing = [field for field in wanted if field not in declared and field not in cls.__dict__]
        unknown = set(declared) - set(wanted)
        if missing or unknown:
            wrong = f"does not declare its {', '.join(missing)}" if missing else f"has no {', '.join(sorted(unknown))}"
            raise ValueError(f"{cls.__name__} {name}, “{words}”, {wrong}.")
        if words in cls.kinds or name in cls.names():
            raise ValueError(f"{cls.__name__} {name}, “{words}”, is declared twice.")
        kind = str.__new__(cls, words)
        kind.__dict__.update(declared, name=name, order=order)
        kind.refuse_nonsense()
        cls.kinds[words] = kind
        return kind

    def refuse_nonsense(self) -> None:
        """Raise ValueError where the declarations contradict each other."""

    def __reduce__(self) -> tuple[Any, ...]:
        """Copies of a kind are the kind itself."""
        return type(self).named, (str(self),)

    @classmethod
    def named(cls, words: str) -> Self:
        """Return the kind with these words. Raises ValueError listing the known ones."""
        if words not in cls.kinds:
            raise ValueError(f"One of: {', '.join(cls)}.")
        kind: Self = cls.kinds[words]
        return kind

    @classmethod
    def drop(cls, words: str) -> None:
        """Forget a kind that a test declared."""
        del cls.kinds[words]

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Validate and serialize a kind by its words."""
        return core_schema.no_info_after_validator_function(
            cls.named, core_schema.str_schema(), serialization=core_schema.to_string_ser_schema()
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """List the allowed words."""
        return {"type": "string", "enum": [str(kind) for kind in cls]}
