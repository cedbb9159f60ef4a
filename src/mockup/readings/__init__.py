"""What was read at the bench, and what each set of readings amounts to before anything is judged.

Every module here is read in with the first of them, so that a kind of reading is known by standing here.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
