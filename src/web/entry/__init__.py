"""The one way readings are entered: entries sent by a page, whole forms sent without script, and their answers.

The fields of a form and how they are read belong to the stations; the frame of a page belongs to ``page``.
"""
