"""One module for each kind of reading: its record, its declaration, and its own arithmetic.

No kind needs another.

Every module here is imported with the package, so that a kind is known as soon as its file exists. What several
readings amount to together belongs in ``fit``.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
