"""Engines whose truth is known, their readings as a bench would take them, and the proof that figures hold.

It imports the core's data classes and nothing of its arithmetic: what is true here is found by other means.
"""
