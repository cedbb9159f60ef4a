"""./mole check FILE…: the core's own command, without a database or a browser."""

from mockup.command import main

__all__ = ["main"]
