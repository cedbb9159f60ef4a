"""Pictures as evidence: decoded, stripped of metadata, stored privately with the shop, and what was measured in them.

Their pages belong in ``sheets`` and in the clay station.
"""
