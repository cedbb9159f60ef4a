"""Units, values with their uncertainty, how typing becomes a length and back, and figures with their corrections.

Nothing here knows what was measured. No other folder converts between inches and millimetres.
"""
