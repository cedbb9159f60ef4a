"""PDFs that were asked for: making one takes seconds, so it is done beside the serving."""

from django.db import models
from django_scopes import ScopedManager

from web.shops.models import Shop


class PrintedSheet(models.Model):
    """One sheet at the time it was asked for: its page, and its PDF once made.

    Kept for some minutes.

    ``mark`` identifies the person, the sheet, and the version of its build.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    mark = models.CharField(max_length=64, db_index=True)
    html = models.TextField()
    paper = models.CharField(max_length=10)
    asked_at = models.DateTimeField(auto_now_add=True, db_index=True)
    begun_at = models.DateTimeField(null=True)
    pdf = models.BinaryField(null=True)
    failed = models.BooleanField(default=False)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"a sheet asked for at {self.asked_at:%Y-%m-%d %H:%M}"
