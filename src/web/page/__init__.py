"""The frame of a build page: margin strip, steps, fields, forms, replaced parts.

What one station shows belongs in ``stations``; drawings in ``drawings``.
"""
