"""What may be changed on an engine: each kind declared in one module, with all that the program knows of it.

Every module here is read in with the first of them, so that a kind of change is known by standing here.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
