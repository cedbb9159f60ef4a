"""Where the first migration of the pictures finds its upload name."""

from web.pictures.models import _name

__all__ = ["_name"]
