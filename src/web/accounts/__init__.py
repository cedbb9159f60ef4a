"""Pages about people: signing in, the second factor, one's own page, and the owner's list of people.

The rules behind them (passwords, sessions, devices) belong in ``shops``.
"""
