"""The limits a build is judged against, and how a figure with uncertainty is judged by one.

Ready-made sets of limits are here too. Which limit applies to which figure is for ``checks``.
"""
