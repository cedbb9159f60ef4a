"""One build: the engine as designed and how its log is kept."""

from collections.abc import Iterable
from functools import cached_property
from typing import Any

from django.db import models
from django_scopes import ScopedManager

from mockup.base.topics import EVERYTHING, Topic
from mockup.engine.block import Engine
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import DeckSign, Unit
from web.builds.entry_kinds import kept, record_of
from web.builds.models.choices import choices
from web.shops.models import Shop

WILL_NOT_DO = (ValueError, TypeError, LookupError, ArithmeticError, AssertionError, AttributeError)
"""The errors raised by a row that holds something other than this version writes."""


class UnreadableError(Exception):
    """A build whose rows make no job: a missing cylinder, or an unreadable entry."""

    def __init__(self, build: "Build", reason: str) -> None:
        self.build_id = build.pk
        super().__init__(reason)


class Build(models.Model):
    """A build of one shop. Its engine is stored as the core's own record.

    ``first_of_block``: the first build of the same block, None for that one itself.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="builds")
    name = models.CharField(max_length=120)
    subtitle = models.CharField(max_length=60, blank=True)
    begun_at = models.DateTimeField(auto_now_add=True)
    put_away_at = models.DateTimeField(null=True, blank=True, db_index=True)

    unit = models.CharField(max_length=2, choices=choices(Unit), default=Unit.INCH)
    deck_sign = models.CharField(max_length=20, choices=choices(DeckSign), default=DeckSign.DOWN_POSITIVE)
    limits = models.CharField(max_length=30, default="street")
    checking_kept = models.JSONField(default=list, blank=True)
    engine_kept = models.JSONField()
    first_of_block = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="later_of_block")

    objects = ScopedManager(shop="shop")

    class Meta:
        ordering = ["begun_at", "pk"]
        constraints = [
            models.CheckConstraint(condition=models.Q(limits__in=list(READY_MADE)), name="known_limits"),
        ]
        # The number of builds in the list is counted on every visit.
        indexes = [models.Index(fields=["shop"], condition=models.Q(put_away_at=None), name="on_the_stand")]

    def __str__(self) -> str:
        return f"{self.name} {self.subtitle}".strip()

    @cached_property
    def engine(self) -> Engine:
        """The engine as designed. Raises UnreadableError."""
        try:
            found: Engine = record_of(Engine, self.engine_kept)
        except WILL_NOT_DO as error:
            raise UnreadableError(self, f"Its engine cannot be read. {error}") from error
        return found

    @property
    def checking(self) -> tuple[Topic, ...]:
        """The topics it is checked for; empty for everything."""
        return tuple(Topic(one) for one in self.checking_kept)

    @checking.setter
    def checking(self, topics: Iterable[Topic]) -> None:
        chosen = set(topics)
        self.checking_kept = [] if chosen == EVERYTHING else [str(topic) for topic in Topic if topic in chosen]

    def keep(self, engine: Engine) -> None:
        """Replace the engine."""
        self.engine_kept = kept(engine)
        self.__dict__.pop("engine", None)

    def refresh_from_db(self, *args: Any, **kwargs: Any) -> None:
        """Reload the row, including its engine."""
        super().refresh_from_db(*args, **kwargs)
        self.__dict__.pop("engine", None)
