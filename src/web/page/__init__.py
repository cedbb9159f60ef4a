"""The frame of a build page: margin strip, steps, entry fields, forms, and answers that replace parts of it.

What one station shows belongs in ``stations``; drawings in ``drawings``.
"""
