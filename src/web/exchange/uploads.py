"""Uploaded files: kept until they are previewed and imported, or for a day."""

import codecs
import contextlib
import json
from collections.abc import Iterable
from datetime import timedelta
from uuid import UUID, uuid4

from django.core.files.uploadedfile import UploadedFile
from django.db.models import QuerySet
from django.http import Http404
from django.utils import timezone

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.formats.job_read import LONGEST_FILE
from mockup.formats.table import Table, from_csv
from mockup.formats.workbook import LARGEST, from_workbook
from web.builds.models import Build
from web.exchange.models import Upload
from web.shops.models import Person

KEPT = timedelta(days=1)
MOST_FILES = 50
LONGEST_NAME = 200


def text_of(upload: "UploadedFile[bytes]") -> str:
    """Return the text of an uploaded file.

    Raises FaultsError where it is not text, or too large.
    """
    if upload.size and upload.size > LONGEST_FILE:
        raise FaultsError([Fault("", "The file is too large to be a job file.")])
    return decoded(upload.read())


def decoded(content: bytes) -> str:
    """Return the decoded text. Raises FaultsError where it is not text."""
    try:
        text = str(content, "utf-8")
    except UnicodeDecodeError as error:
        raise FaultsError([Fault("", "The file is not text in UTF-8.")]) from error
    if "\x00" in text:
        raise FaultsError(
            [Fault("", "A text in it contains a NUL character, which cannot be typed or stored. Remove it.")]
        )
    return text


def decoded_table(content: bytes) -> str:
    """Return the text of a table as spreadsheets write it: UTF-8, UTF-16, or Latin-1.

    Raises FaultsError where it is none of them.
    """
    if content[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        encodings = ["utf-16"]
    elif b"\x00" in content[:200]:
        encodings = ["utf-16-le" if content[1:2] == b"\x00" else "utf-16-be"]
    else:
        encodings = ["utf-8-sig", "cp1252"]
    for encoding in encodings:
        with contextlib.suppress(UnicodeDecodeError):
            text = str(content, encoding)
            refuse([Fault("", "A text in it contains a NUL character. Remove it.")] if "\x00" in text else [])
            return text
    raise FaultsError([Fault("", "The file is not readable text: save it as CSV in UTF-8.")])


def tables_of(upload: "UploadedFile[bytes]") -> list[Table]:
    """Return the tables in a file: a workbook's sheets, or one named after a CSV file.

    Raises FaultsError.
    """
    if upload.size and upload.size > LARGEST:
        raise FaultsError([Fault("", f"At most {LARGEST:,} bytes in one file.")])
    content = upload.read()
    if content.startswith(b"PK"):
        return from_workbook(content)
    return [from_csv(decoded_table(content), (upload.name or "").rpartition(".")[0])]


def forget(batch: UUID, by: Person, build: Build | None = None) -> None:
    """Delete the files of a batch, of readings for ``build`` or of whole builds."""
    kept(batch, by, build).delete()


def keep(files: Iterable[tuple[str, str, str]], by: Person, build: Build | None = None) -> UUID:
    """Store files, each with name, text and fault; returns their batch.

    Files older than a day are deleted.
    """
    Upload.objects.filter(at__lt=timezone.now() - KEPT).delete()
    assert by.shop is not None
    batch = uuid4()
    Upload.objects.bulk_create(
        Upload(
            shop=by.shop,
            by=by,
            build=build,
            batch=batch,
            name=name[-LONGEST_NAME:],
            text=text,
            fault=fault[:LONGEST_NAME],
        )
        for name, text, fault in files
    )
    return batch


def kept(batch: UUID, by: Person, build: Build | None = None) -> QuerySet[Upload]:
    """Return the files of a batch.

    Raises Http404 where this person sent none, or a day has passed.
    """
    found: QuerySet[Upload] = Upload.objects.filter(batch=batch, by=by, build=build)
    if not found.exists():
        raise Http404(str(batch))
    return found


def as_text(tables: Iterable[Table]) -> str:
    """Return tables as text for storing."""
    return json.dumps([[one.name, one.headings, one.rows, one.first_row] for one in tables])


def as_tables(text: str) -> list[Table]:
    """Return the tables in stored text."""
    found = json.loads(text)
    return [Table(name, tuple(heads), tuple(map(tuple, rows)), first) for name, heads, rows, first in found]
