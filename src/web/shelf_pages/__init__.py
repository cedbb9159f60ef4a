"""The pages of the shelf: gaskets, shims, pushrods, instruments, cams, gauges, and the shop's own engines and limits.

The rows behind them belong in ``shelf``.
"""
