"""Station: putting it right.

What a change would do, the least work that clears everything, and the plan.
"""
