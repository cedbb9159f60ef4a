"""Readings sent by gauges that no page has taken yet: in order, each once."""

from django.db import models
from django.utils import timezone
from django_scopes import ScopedManager

from web.shops.models import Person, Shop


class GaugeReading(models.Model):
    """One reading of a gauge for a person's open page.

    ``token`` identifies it from the gauge to the log.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    token = models.UUIDField()
    text = models.CharField(max_length=40)
    gauge = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    # When the gauge sent it; it only goes into the field that had the cursor then.
    sent_at = models.DateTimeField(default=timezone.now)
    # Since when it waits in the tray, where no field had the cursor.
    in_tray_at = models.DateTimeField(null=True)
    offered_at = models.DateTimeField(null=True)
    done_at = models.DateTimeField(null=True)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["person", "token"], name="one_gauge_reading_a_token")]
        indexes = [models.Index(fields=["person"], condition=models.Q(done_at=None), name="gauge_readings_waiting")]

    def __str__(self) -> str:
        return self.text


class GaugeUnit(models.Model):
    """The unit of a gauge's bare numbers in a shop, stored by the gauge's name."""

    class Unit(models.TextChoices):
        """What a bare number of the gauge is."""

        INCH = "in", "inches"
        MILLIMETRE = "mm", "millimetres"
        THOU = "thou", "thou"
        NONE = "", "a number as it is: degrees or cc"

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    gauge = models.CharField(max_length=40, blank=True)
    unit = models.CharField(max_length=4, choices=Unit, blank=True)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["gauge"]
        constraints = [models.UniqueConstraint(fields=["shop", "gauge"], name="one_unit_a_gauge")]

    def __str__(self) -> str:
        return f"{self.gauge or 'a gauge without a name'}: {self.get_unit_display()}"
