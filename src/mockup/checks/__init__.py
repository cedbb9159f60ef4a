"""Checks: each turns readings into a running figure and judges it against a margin sheet."""
