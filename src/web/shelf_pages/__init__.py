"""The pages of the shelf: parts, instruments, cams, gauges, own engines and limits.

The rows behind them belong in ``shelf``.
"""
