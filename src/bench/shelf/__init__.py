"""The shelf: gaskets, base shims and instruments a shop owns."""
