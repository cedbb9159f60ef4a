"""What gauges sent and no page has taken yet: in the order it came, each once."""

from django.db import models
from django_scopes import ScopedManager

from bench.shops.models import Person, Shop


class GaugeReading(models.Model):
    """One reading of a gauge for somebody's open page. ``token`` is its own from the gauge to the book."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    token = models.UUIDField()
    text = models.CharField(max_length=40)
    gauge = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    offered_at = models.DateTimeField(null=True)
    done_at = models.DateTimeField(null=True)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["person", "token"], name="one_gauge_reading_a_token")]
        indexes = [models.Index(fields=["person"], condition=models.Q(done_at=None), name="gauge_readings_waiting")]

    def __str__(self) -> str:
        return self.text
