"""The rows of a shop's shelf. Lengths [mm]."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket
from mockup.plans.shim_stacks import ShimKind
from mockup.quantity.gauge_lines import GaugeWay
from mockup.quantity.shown import plain_mm_text
from mockup.readings.instruments import REPEATS_MM, Calibration, Instrument
from web.shelf.kept import cam_of, engine_of, gauge_way_of, kept_cam
from web.shops.models import Shop


class Shelved(models.Model):
    """Anything on the shelf. Removed things are kept for the builds that use them."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="%(class)ss")
    off_since = models.DateTimeField(null=True)

    objects = ScopedManager(shop="shop")

    class Meta:
        abstract = True


class ShelfGasket(Shelved):
    """A head gasket: its bore, and its thickness free and compressed."""

    name = models.CharField(max_length=60)
    bore_mm = models.FloatField()
    compressed_mm = models.FloatField()
    free_mm = models.FloatField(null=True)

    class Meta:
        ordering = ["compressed_mm", "pk"]

    def __str__(self) -> str:
        return self.name

    def core(self) -> FinalGasket:
        """Return the gasket as core data."""
        return FinalGasket(name=self.name, compressed_mm=self.compressed_mm, bore_mm=self.bore_mm)


class ShelfShim(Shelved):
    """One thickness of base shim, and how many of it there are."""

    thickness_mm = models.FloatField()
    stock = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ["thickness_mm", "pk"]

    def __str__(self) -> str:
        return f"{plain_mm_text(self.thickness_mm)} × {self.stock}"

    def core(self) -> ShimKind:
        """Return the shims as core data."""
        return ShimKind(self.thickness_mm, self.stock)


class ShelfPushrod(Shelved):
    """Pushrods of one length, and how many of them there are."""

    length_mm = models.FloatField()
    stock = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ["length_mm", "pk"]

    def __str__(self) -> str:
        return f"pushrods of {plain_mm_text(self.length_mm)}"


class ShelfCam(Shelved):
    """A cam, in the shop or available: card, measured lobes, and what the shop notes of it."""

    name = models.CharField(max_length=60)
    had = models.BooleanField(default=False)
    price = models.CharField(max_length=40, blank=True)
    note = models.CharField(max_length=200, blank=True)
    cam_kept = models.JSONField()

    class Meta:
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name

    def core(self) -> Camshaft:
        """Return the cam as core data, under its name on the shelf."""
        return cam_of(self.cam_kept, self.name)

    def keep(self, cam: Camshaft) -> None:
        """Replace card and lobes."""
        self.cam_kept = kept_cam(cam)


class ShelfEngine(Shelved):
    """An engine to start builds from: the core's record of it, and how its builds are kept."""

    name = models.CharField(max_length=60)
    unit = models.CharField(max_length=2)
    deck_sign = models.CharField(max_length=20)
    limits = models.CharField(max_length=30)
    engine_kept = models.JSONField()

    class Meta:
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name

    def core(self) -> Engine:
        """Return the engine as core data."""
        return engine_of(self.engine_kept)


class ShelfLimits(Shelved):
    """The shop's own limits: a ready-made set and its differing limits [mm or 1] or None."""

    name = models.CharField(max_length=60)
    base = models.CharField(max_length=30)
    edits = models.JSONField()

    class Meta:
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name


class ShelfInstrument(Shelved):
    """An instrument of the shop's own. ``use`` is the built-in one it replaces."""

    key = models.CharField(max_length=20)
    name = models.CharField(max_length=60)
    use = models.CharField(max_length=20)
    resolution_mm = models.FloatField()
    accuracy_mm = models.FloatField()
    repeats_mm = models.FloatField(default=REPEATS_MM)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["shop", "key"], name="one_instrument_a_key")]

    def __str__(self) -> str:
        return self.name

    def core(self) -> Instrument:
        """Return the instrument as core data."""
        return Instrument(
            calibrated=tuple(one.core() for one in self.calibrations.all()),
            key=self.key,
            name=self.name,
            resolution_mm=self.resolution_mm,
            accuracy_mm=self.accuracy_mm,
            repeats_mm=self.repeats_mm,
        )


class ShelfCalibration(models.Model):
    """One calibration of an instrument: from and until when, by whom, and who entered it."""

    instrument = models.ForeignKey(ShelfInstrument, on_delete=models.CASCADE, related_name="calibrations")
    on = models.DateField()
    until = models.DateField()
    by_whom = models.CharField(max_length=60, blank=True)
    noted_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    noted_at = models.DateTimeField(auto_now_add=True)

    objects = ScopedManager(shop="instrument__shop")

    class Meta:
        ordering = ["on", "pk"]

    def __str__(self) -> str:
        return f"{self.on} until {self.until}"

    def core(self) -> Calibration:
        """Return the calibration as core data."""
        return Calibration(on=self.on.isoformat(), until=self.until.isoformat(), by=self.by_whom)


class ShelfGaugeWay(Shelved):
    """How a gauge of the shop writes its readings to a serial cable: the core's record of it."""

    way_kept = models.JSONField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return str(self.way_kept.get("name", ""))

    def core(self) -> GaugeWay:
        """Return the format as core data."""
        return gauge_way_of(self.way_kept)
