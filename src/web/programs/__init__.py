"""The API: what other programs and gauges read and write (docs/programs.md)."""
