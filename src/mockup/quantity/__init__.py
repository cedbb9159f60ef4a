"""Units, values with uncertainty, typing to lengths and back, figures with corrections.

Nothing here knows what was measured. No other folder converts between inches and millimetres.
"""
