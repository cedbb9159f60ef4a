"""Pictures as evidence: decoded, without metadata, private to the shop, measured.

Their pages belong in ``sheets`` and in the clay station.
"""
