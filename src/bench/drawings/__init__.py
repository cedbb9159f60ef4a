"""Geometry for SVG, computed from a Report; templates hold the marks. Knows no models."""
