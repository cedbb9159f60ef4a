"""The list of the shop's builds: search, starting a build, mending an unreadable one.

Pages of one build belong in ``stations``.
"""
