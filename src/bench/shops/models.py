"""Shops, and the people who belong to them."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Shop(models.Model):
    """One workshop. Everything else belongs to exactly one."""

    name = models.CharField(max_length=80)

    def __str__(self) -> str:
        return self.name


class Sent(models.Model):
    """A form that was sent, by its token, and where it led: the same one again writes nothing more."""

    token = models.UUIDField(primary_key=True)
    person = models.ForeignKey("shops.Person", on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(auto_now_add=True, db_index=True)
    location = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return str(self.token)


class Person(AbstractUser):
    """Somebody who signs in. A person without a shop sees nothing."""

    class Role(models.TextChoices):
        """What a person may do in their shop."""

        MEMBER = "member", "reads and writes"
        VIEWER = "viewer", "reads only"

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, null=True, blank=True, related_name="people")
    role = models.CharField(max_length=10, choices=Role, default=Role.MEMBER)

    @property
    def may_write(self) -> bool:
        """Whether this person may enter and change things."""
        return self.shop_id is not None and self.role == self.Role.MEMBER

    @property
    def shown_name(self) -> str:
        """The name put beside readings."""
        return self.first_name or self.username
