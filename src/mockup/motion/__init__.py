"""How the parts move: the slider-crank, lobes, and the lift of a valve.

Pure geometry: no readings, no changes, no limits.
"""
