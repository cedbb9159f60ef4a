"""The list of the shop's builds: searching it, starting a build, and mending one that cannot be read.

Pages of one build belong in ``stations``.
"""
