"""Links by which a person outside the shop reads one build sheet."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from web.builds.models.build import Build


class SheetLink(models.Model):
    """One link: only the digest of its token is stored; it expires, or is ended by a person."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="links")
    digest = models.CharField(max_length=64, unique=True)
    words = models.CharField(max_length=60, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    objects = ScopedManager(shop="build__shop")

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.words or 'a link'} until {self.ends_at:%Y-%m-%d}"
