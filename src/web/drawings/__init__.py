"""Geometry for SVG, computed from a Report; templates hold the marks.

It imports no models and no Django.
"""
