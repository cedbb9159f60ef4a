"""Pictures of a build, and which readings each is evidence for."""

from typing import Any
from uuid import uuid4

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from web.builds.models import Build, Entry
from web.pictures.storage import WithTheShop

LONGEST_WORDS = 200


class KeptFile(models.Model):
    """The bytes of one picture under an unguessable name; only its picture reaches it."""

    name = models.CharField(max_length=100, primary_key=True)
    data = models.BinaryField()

    def __str__(self) -> str:
        return self.name


def _name(picture: "Picture", _sent: str) -> str:
    """Return a random name; the upload's file name is discarded."""
    return f"{picture.build_id}/{uuid4()}.jpg"


class Picture(models.Model):
    """A picture of a build, of a mock-up (``mockup``), or of readings (``evidence``).

    ``small``: a preview. ``width`` and ``height`` [px]. Once removed its bytes are gone and the row says so.
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="pictures")
    mockup = models.CharField(max_length=3, blank=True)
    file = models.FileField(storage=WithTheShop(), upload_to=_name, max_length=100)
    small = models.FileField(storage=WithTheShop(), upload_to=_name, max_length=100)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    size = models.PositiveIntegerField()
    words = models.CharField(max_length=LONGEST_WORDS, blank=True)
    on_sheet = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    removed_reason = models.CharField(max_length=LONGEST_WORDS, blank=True)
    removed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    removed_at = models.DateTimeField(null=True)

    objects = ScopedManager(shop="build__shop")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.words or f"picture {self.pk}"


class Evidence(models.Model):
    """A picture as evidence for a reading.

    ``marks`` and ``seen``: if measured in it, as the core had them.
    """

    picture = models.ForeignKey(Picture, on_delete=models.CASCADE, related_name="evidence")
    entry = models.ForeignKey(Entry, on_delete=models.CASCADE, related_name="pictures")
    marks = models.JSONField(null=True)
    seen = models.JSONField(null=True)

    objects = ScopedManager(shop="picture__build__shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["picture", "entry"], name="a_picture_once_a_reading")]

    def __str__(self) -> str:
        return f"{self.picture_id} for {self.entry_id}"


def bytes_of(file: Any) -> bytes:
    """Return the bytes of a stored picture."""
    with file.storage.open(file.name) as opened:
        found: bytes = opened.read()
    return found
