"""The registry of kinds, each declared in one module with all the program needs to know.

A kind is a string, the word people read, with its declared attributes. Code reaches it by the constant of its module
(``mockup.changes.cuts.DECK_CUT``), so that type checker and editor know it. A new kind is a new module, and no list has
to be edited.
"""

from inspect import get_annotations
from typing import Any, ClassVar, Self

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema


class Declared(str):
    """One kind of its class, as a string; ``order`` is its position among the others.

    The class's annotations are what must be declared; those with a value may be left out.
    """

    order: float
    _kinds: ClassVar[dict[str, Any]]

    def __init_subclass__(cls) -> None:
        cls._kinds = {}

    def __new__(cls, words: str, *, order: float, **declared: Any) -> Self:
        """Declare a kind. Raises ValueError where a declaration is missing, or its words are taken."""
        wanted = get_annotations(cls)
        missing = [field for field in wanted if field not in declared and field not in cls.__dict__]
        unknown = set(declared) - set(wanted)
        if missing or unknown:
            wrong = f"does not declare its {', '.join(missing)}" if missing else f"has no {', '.join(sorted(unknown))}"
            raise ValueError(f"{cls.__name__} “{words}” {wrong}.")
        if words in cls._kinds:
            raise ValueError(f"{cls.__name__} “{words}” is declared twice.")
        kind = str.__new__(cls, words)
        kind.__dict__.update(declared, order=order)
        kind.refuse_nonsense()
        cls._kinds[words] = kind
        return kind

    @property
    def slug(self) -> str:
        """Its words for addresses and the ids of a page, with dashes."""
        return self.replace(" ", "-")

    def refuse_nonsense(self) -> None:
        """Raise ValueError where the declarations contradict each other."""

    def __reduce__(self) -> tuple[Any, ...]:
        """Copies of a kind are the kind itself."""
        return type(self).named, (str(self),)

    @classmethod
    def all(cls) -> list[Self]:
        """Return the kinds of this class in their declared order."""
        return sorted(cls._kinds.values(), key=lambda kind: float(kind.order))

    @classmethod
    def named(cls, words: str) -> Self:
        """Return the kind with these words. Raises ValueError listing the known ones."""
        if words not in cls._kinds:
            raise ValueError(f"One of: {', '.join(cls.all())}.")
        kind: Self = cls._kinds[words]
        return kind

    @classmethod
    def drop(cls, words: str) -> None:
        """Forget a kind that a test declared."""
        del cls._kinds[words]

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Validate and serialize a kind by its words."""
        return core_schema.no_info_after_validator_function(
            cls.named, core_schema.str_schema(), serialization=core_schema.to_string_ser_schema()
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """List the allowed words."""
        return {"type": "string", "enum": [str(kind) for kind in cls.all()]}
