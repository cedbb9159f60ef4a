"""The stations of the run, one folder each; none knows another."""
