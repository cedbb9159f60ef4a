"""The shelf's rows and services: gaskets, shims, pushrods, cams, instruments and gauges a shop owns.

Its pages belong in ``shelf_pages``.
"""
