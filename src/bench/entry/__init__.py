"""The one way readings are entered: the lines a page sends, whole sheets sent without script, and their answers.

What a sheet asks for and how its fields are read belongs to the stations; how a page is framed belongs to ``page``.
"""
