"""The parts of an engine and the conditions of a mock-up, as frozen data that refuses impossible values.

What is done to an engine belongs in ``changes``; what was read of it in ``readings``.
"""
