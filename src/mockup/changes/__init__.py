"""What may be changed on an engine: one module a kind, declaring all there is to know.

Every module here is imported with the package, so that a kind is known as soon as its file exists.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
