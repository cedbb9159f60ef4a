"""Settings: base for all, then one module for each way of running."""
