"""The sentences of the core: reports and uncertainty in words, the how-to of each station, the glossary.

Units are chosen here; nothing is computed.
"""
