"""The stations of a build, one folder each: views, forms and templates.

No station imports another.

What several stations share belongs in ``page`` or ``entry``.
"""
