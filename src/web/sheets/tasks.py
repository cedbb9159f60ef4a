"""Tasks done beside the server by its worker, from a queue in the database."""

import logging
from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from django_scopes import scopes_disabled
from django_tasks import task

from web.sheets.models import PrintedSheet
from web.sheets.typeset import typeset

log = logging.getLogger(__name__)
KEPT = timedelta(minutes=10)
"""How long a PDF is kept after it was asked for."""


@task()
def print_sheet(number: int) -> None:
    """Make the PDF of a sheet, if nobody has begun it.

    A failure is stored in the row and raised.
    """
    with scopes_disabled():
        PrintedSheet.objects.filter(asked_at__lt=timezone.now() - KEPT).delete()
        with transaction.atomic():
            sheet = PrintedSheet.objects.select_for_update().filter(pk=number, begun_at=None).first()
            if sheet is None:
                return
            sheet.begun_at = timezone.now()
            sheet.save(update_fields=["begun_at"])
        try:
            sheet.pdf = typeset(sheet.html, sheet.paper)
        except Exception:
            log.exception("sheet %s could not be made", number)
            sheet.failed = True
            raise
        finally:
            sheet.save(update_fields=["pdf", "failed"])
