"""What every folder of the core may use: faults, the registry of kinds, stations, topics.

Nothing here knows a length, an engine or a reading.
"""
