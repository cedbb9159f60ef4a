"""What one job's readings amount to: curve fits, the cam, figures carried to now.

Nothing here is compared with a limit; that is for ``checks``.
"""
