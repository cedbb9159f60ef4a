"""Where the first migration of the pictures finds its storage."""

from web.pictures.storage import WithTheShop

__all__ = ["WithTheShop"]
