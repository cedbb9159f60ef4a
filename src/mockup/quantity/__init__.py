"""Lengths, volumes and their uncertainties: as values, as typing and as text."""
