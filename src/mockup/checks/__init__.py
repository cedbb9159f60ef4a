"""Checks: each turns readings into a running figure and judges it against a margin sheet.

Every module here is read in with the first of them, so that a kind of check is known by standing here.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
