"""What every other folder of the core may use: faults in data, the registry of kinds, stations and topics.

Nothing here knows a length, an engine or a reading.
"""
