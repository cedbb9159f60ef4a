"""Where pictures lie: in the shop's own database, with everything else of it.

So one backup holds them, a restored one has them, what is rolled back leaves none behind, and no file lies about that a
web server might give out by mistake. They are scaled before they come here: some hundred kilobytes each.
"""

from io import BytesIO
from typing import Any

from django.core.files.base import File
from django.core.files.storage import Storage
from django.utils.deconstruct import deconstructible


@deconstructible
class WithTheShop(Storage):
    """Django's storage of files, in rows (``KeptFile``) without an address: a page gives them out, to who may see."""

    def _open(self, name: str, mode: str = "rb") -> "File[bytes]":
        if mode != "rb":
            raise ValueError("What is kept here is only read, or written whole.")
        row = _rows().filter(name=name).only("data").first()
        if row is None:
            raise FileNotFoundError(name)
        return File(BytesIO(bytes(row.data)), name)

    def _save(self, name: str, content: Any) -> str:
        _rows().create(name=name, data=b"".join(content.chunks()))
        return name

    def delete(self, name: str) -> None:
        """Throw one away; one that is not there is gone already."""
        _rows().filter(name=name).delete()

    def exists(self, name: str) -> bool:
        """Whether there is one of this name."""
        return bool(_rows().filter(name=name).exists())


def _rows() -> Any:
    # Read in when first asked for: a field of the models is made with this class.
    from bench.pictures.models import KeptFile  # noqa: PLC0415

    return KeptFile.objects
