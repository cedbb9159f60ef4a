"""Parts of an engine and conditions of a mock-up: frozen data without impossible values.

What is done to an engine belongs in ``changes``; what was read of it in ``readings``.
"""
