"""What the readings of one job amount to: curve fits, the cam as it will run, figures carried to a changed engine.

Nothing here is compared with a limit; that is for ``checks``.
"""
