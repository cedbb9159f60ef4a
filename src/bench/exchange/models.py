"""What was sent to be read in and waits to be looked at: kept for a day, then thrown away."""

import uuid

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from bench.builds.models import Build
from bench.shops.models import Shop


class Upload(models.Model):
    """One file that somebody sent, as text: a job file, or tables of readings of a build; ``fault`` where it is none.

    Files sent together have the same ``batch``, by which their sender looks at them.
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
