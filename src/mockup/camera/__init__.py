"""A thickness from a picture of the cut clay: edges to a fraction of a pixel, a reference in the same plane, and U."""
