"""Engines with known truth, their readings, and the proof of the program's figures.

It imports the core's data classes and none of its arithmetic: the truth is found by other means.
"""
