"""Rows of a build: the build itself, its mock-ups, and entries that are struck out but never deleted."""

from bench.builds.models.build import Build
from bench.builds.models.entries import ClayReading, DeckReading, Entry, FinalGasket, LimitEdit, VolumeReading
from bench.builds.models.mockup import MockUp

__all__ = ["Build", "ClayReading", "DeckReading", "Entry", "FinalGasket", "LimitEdit", "MockUp", "VolumeReading"]
