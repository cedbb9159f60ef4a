"""Engines with known truth, their readings as a bench would take them, and the proof that the program's figures hold.

It imports the core's data classes and none of its arithmetic: the truth is found by other means.
"""
