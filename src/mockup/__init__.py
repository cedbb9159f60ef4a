"""The arithmetic and the judgement of a short-block mock-up, without any interface.

Readings go in as one frozen ``Job``; ``evaluate(job)`` returns one ``Report``. Only ``command`` reads files, and
nothing here reads a clock or a database. Lengths are millimetres, angles degrees, volumes cm3; names carry the unit.
"""

__version__ = "0.2.0"

PROGRAM = f"Astute Mole {__version__}"
"""Name and version as pages, printed sheets and exports state them."""
