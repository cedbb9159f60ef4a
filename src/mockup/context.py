"""What every figure is computed from: a job, and what its readings amount to."""

from collections.abc import Mapping
from functools import cached_property

from mockup.engine.valves import Place
from mockup.fit.deck_figures import DeckFigure, deck_figures
from mockup.fit.engine_history import EngineHistory
from mockup.fit.known_decks import KnownDeck, known_decks
from mockup.fit.pushrod_figures import PushrodFigure, pushrod_figures
from mockup.fit.sweep_fits import sweep_figures
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.volume_figures import VolumeFigure, volume_figures
from mockup.readings.volumes import VolumePart


class EvaluationContext(EngineHistory):
    """A job and what its readings amount to.

    Each property is computed once, when it is first used.
    """

    @cached_property
    def sweeps(self) -> tuple[SweepFigure, ...]:
        """The fit of every valve measured by indicator."""
        return self.measured.sweeps if self.measured is not self else tuple(sweep_figures(self))

    @cached_property
    def deck(self) -> Mapping[int, DeckFigure]:
        """The deck clearance of each cylinder whose crown centre is known, by cylinder number."""
        return deck_figures(self)

    @cached_property
    def known_decks(self) -> Mapping[int, KnownDeck]:
        """The deck of each cylinder that is read, or that clay on the pads tells, by number."""
        return known_decks(self, self.deck)

    @cached_property
    def parts(self) -> Mapping[VolumePart, Mapping[int, VolumeFigure]]:
        """Chamber and piston volumes, by part and cylinder number."""
        return {part: volume_figures(self, part) for part in VolumePart}

    @cached_property
    def pushrods(self) -> Mapping[Place, PushrodFigure]:
        """The zero-lash pushrod length of every valve that was tried."""
        return pushrod_figures(self)
