"""The one way readings are entered: sent entries, whole forms, and their answers.

The fields of a form and how they are read belong to the stations; the frame of a page belongs to ``page``.
"""
