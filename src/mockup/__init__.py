"""The arithmetic and the judgement of a short-block mock-up, with no interface in it.

Readings go in as one frozen ``Job``; ``evaluate(job)`` gives one ``Report``; nothing here but ``command`` reads a
file, and nothing a clock or a database. Lengths are millimetres, angles degrees, volumes cm3; names carry the unit.
"""

__version__ = "0.1.0"
