"""People, shops and devices, and the rules of who may see and do what.

Pages about people belong in ``accounts``.
"""
