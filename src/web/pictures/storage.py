"""Where pictures are stored: in the shop's own database, with everything else.

So one backup holds them, a restored one has them, a rolled back transaction leaves none behind, and no file exists that
a web server might serve by mistake. They are scaled first: some hundred kilobytes each.
"""

from io import BytesIO
from typing import Any

from django.core.files.base import File
from django.core.files.storage import Storage
from django.utils.deconstruct import deconstructible


@deconstructible
class WithTheShop(Storage):
    """Django's file storage in rows (``KeptFile``) without an address; pages serve them."""

    def _open(self, name: str, mode: str = "rb") -> "File[bytes]":
        if mode != "rb":
            raise ValueError("Stored pictures are only read, or written whole.")
        row = _rows().filter(name=name).only("data").first()
        if row is None:
            raise FileNotFoundError(name)
        return File(BytesIO(bytes(row.data)), name)

    def _save(self, name: str, content: Any) -> str:
        _rows().create(name=name, data=b"".join(content.chunks()))
        return name

    def delete(self, name: str) -> None:
        """Delete one; a missing one is ignored."""
        _rows().filter(name=name).delete()

    def exists(self, name: str) -> bool:
        """Return whether there is one of this name."""
        return bool(_rows().filter(name=name).exists())


def _rows() -> Any:
    # Imported on first use, since a field of the models is made with this class.
    from web.pictures.models import KeptFile  # noqa: PLC0415

    return KeptFile.objects
