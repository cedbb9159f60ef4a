"""Pages about people: signing in, second factor, one's own page, the owner's list.

The rules behind them (passwords, sessions, devices) belong in ``shops``.
"""
