"""Shops, and the people who belong to them."""

from typing import ClassVar

from django.contrib.auth.models import AbstractUser, UserManager
from django.db import models


class Shop(models.Model):
    """One workshop. Everything else belongs to exactly one."""

    name = models.CharField(max_length=80)
    time_zone = models.CharField(max_length=60, blank=True)
    paper = models.CharField(max_length=6, choices=[("A4", "A4"), ("letter", "US letter")], default="A4")

    def __str__(self) -> str:
        return self.name


class Sent(models.Model):
    """A form that was sent, by its token, and where it led; sending it again writes nothing."""

    token = models.UUIDField(primary_key=True)
    person = models.ForeignKey("shops.Person", on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(auto_now_add=True, db_index=True)
    location = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return str(self.token)


class PersonManager(UserManager["Person"]):
    """People with their shop: every page asks for both."""

    use_in_migrations = False

    def get_queryset(self) -> models.QuerySet["Person"]:
        """Return everybody, with the shop joined."""
        return super().get_queryset().select_related("shop")


class Person(AbstractUser):
    """A person who signs in. Without a shop they see nothing."""

    class Role(models.TextChoices):
        """What a person may do in their shop."""

        OWNER = "owner", "owner"
        MEMBER = "member", "builder"
        VIEWER = "viewer", "viewer"

    class Theme(models.TextChoices):
        """The theme of the pages."""

        MACHINE = "", "as this machine has it"
        LIGHT = "light", "light"
        DARK = "dark", "dark"

    objects: ClassVar[PersonManager] = PersonManager()

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, null=True, blank=True, related_name="people")
    role = models.CharField(max_length=10, choices=Role, default=Role.MEMBER)
    unit = models.CharField(max_length=2, choices=[("in", "inches and thou"), ("mm", "millimetres")], default="in")
    theme = models.CharField(max_length=5, choices=Theme, default=Theme.MACHINE, blank=True)
    time_zone = models.CharField(max_length=60, blank=True)
    hears_gauges = models.BooleanField(default=False)
    """Whether a program of theirs may write, so that their pages listen for gauges. Kept up to date with the keys."""

    @property
    def may_write(self) -> bool:
        """Whether this person may enter and change things."""
        return self.shop_id is not None and self.role in (self.Role.MEMBER, self.Role.OWNER)

    @property
    def is_owner(self) -> bool:
        """Whether this person manages the people of the shop."""
        return self.shop_id is not None and self.role == self.Role.OWNER

    @property
    def shown_name(self) -> str:
        """The name shown beside readings."""
        return self.first_name or self.username


class Pass(models.Model):
    """A one-time link: only the digest of its token is stored."""

    class Kind(models.TextChoices):
        """What it is for."""

        FIRST = "first", "make the first shop"
        JOIN = "join", "join a shop"
        PASSWORD = "password", "set a new password"

    digest = models.CharField(max_length=64, unique=True)
    kind = models.CharField(max_length=10, choices=Kind)
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, null=True)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, null=True, related_name="passes")
    role = models.CharField(max_length=10, blank=True)
    made_by = models.ForeignKey(Person, on_delete=models.CASCADE, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    ends = models.DateTimeField()
    used = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.kind} until {self.ends:%Y-%m-%d}"


class Device(models.Model):
    """A browser the person signed in with: only the digest of its cookie is stored.

    Wrong passwords from elsewhere do not lock them out here. ``failures``: wrong passwords here since the last right
    one.
    """

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="devices")
    digest = models.CharField(max_length=64, unique=True)
    failures = models.PositiveSmallIntegerField(default=0)
    at = models.DateTimeField(auto_now=True, db_index=True)

    def __str__(self) -> str:
        return f"a device of {self.person.username}"


class ShopLine(models.Model):
    """The shop's own history: changes of access and of the shop."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="lines")
    by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    words = models.CharField(max_length=200)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.words


class ProgramKey(models.Model):
    """A key with which a program acts for a person; only its token's digest is stored."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="program_keys")
    name = models.CharField(max_length=60)
    digest = models.CharField(max_length=64, unique=True)
    writes = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)
    used = models.DateTimeField(null=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.name} of {self.person.shown_name}"
