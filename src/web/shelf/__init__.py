"""The shelf's rows and services: parts, cams, instruments and gauges a shop owns.

Its pages belong in ``shelf_pages``.
"""
