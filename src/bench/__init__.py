"""The old name of the package ``web``, kept only because one landed migration imports it.

Landed migrations are never edited, so the names it imports stay available here. Nothing else belongs in this package.
"""
