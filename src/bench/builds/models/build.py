"""One build: the engine as designed and how its book is kept. Lengths [mm], angles [deg]."""

from django.db import models
from django_scopes import ScopedManager

from bench.builds.models.choices import choices
from bench.shops.models import Shop
from mockup.engine.block import Layout, Numbering
from mockup.engine.valves import Relief
from mockup.limits.sheets import READY_MADE
from mockup.quantity.value import DeckSign, Unit


class Build(models.Model):
    """A build of one shop."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="builds")
    name = models.CharField(max_length=120)
    subtitle = models.CharField(max_length=60, blank=True)
    begun_at = models.DateTimeField(auto_now_add=True)

    unit = models.CharField(max_length=2, choices=choices(Unit), default=Unit.INCH)
    deck_sign = models.CharField(max_length=20, choices=choices(DeckSign), default=DeckSign.DOWN_POSITIVE)
    sheet = models.CharField(max_length=30, default="street")

    layout = models.CharField(max_length=10, choices=choices(Layout), default=Layout.INLINE)
    numbering = models.CharField(max_length=10, choices=choices(Numbering), default=Numbering.ALTERNATE)
    cylinders = models.PositiveSmallIntegerField()
    bore_mm = models.FloatField()
    stroke_mm = models.FloatField()
    rod_length_mm = models.FloatField()
    pin_offset_mm = models.FloatField(default=0.0)
    rocker_ratio = models.FloatField(default=1.0)
    firing_order = models.CharField(max_length=60, blank=True)
    bore_spacing_mm = models.FloatField(default=0.0)
    separate_barrels = models.BooleanField(default=False)
    intake_count = models.PositiveSmallIntegerField(default=1)
    intake_angle_deg = models.FloatField(default=0.0)
    intake_cant_deg = models.FloatField(default=0.0)
    intake_relief = models.CharField(max_length=10, choices=choices(Relief), default=Relief.PARALLEL)
    intake_diameter_mm = models.FloatField(default=0.0)
    exhaust_count = models.PositiveSmallIntegerField(default=1)
    exhaust_angle_deg = models.FloatField(default=0.0)
    exhaust_cant_deg = models.FloatField(default=0.0)
    exhaust_relief = models.CharField(max_length=10, choices=choices(Relief), default=Relief.PARALLEL)

    exhaust_diameter_mm = models.FloatField(default=0.0)
    pistons_reversed = models.BooleanField(default=False)
    # How truly each is known, +-; 0 for the usual.
    bore_known_to_mm = models.FloatField(default=0.0)
    stroke_known_to_mm = models.FloatField(default=0.0)
    rod_length_known_to_mm = models.FloatField(default=0.0)

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["begun_at", "pk"]
        constraints = [
            models.CheckConstraint(condition=models.Q(cylinders__range=(1, 16)), name="one_to_sixteen_cylinders"),
            models.CheckConstraint(condition=models.Q(sheet__in=list(READY_MADE)), name="a_known_margin_sheet"),
        ]

    def __str__(self) -> str:
        return f"{self.name} {self.subtitle}".strip()
