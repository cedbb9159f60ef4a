"""Uploads waiting for their preview: kept for a day, then deleted."""

import uuid

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from web.builds.models import Build
from web.shops.models import Shop


class Upload(models.Model):
    """One uploaded file as text: a job file or tables of readings; ``fault`` if neither.

    Files sent together share a ``batch``, the key of their preview.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    build = models.ForeignKey(Build, on_delete=models.CASCADE, null=True, related_name="+")
    batch = models.UUIDField(default=uuid.uuid4, db_index=True)
    name = models.CharField(max_length=200)
    text = models.TextField()
    fault = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name
