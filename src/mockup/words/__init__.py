"""The sentences of the core: reports, uncertainty, how-to of stations, glossary.

Units are chosen here; nothing is computed.
"""
