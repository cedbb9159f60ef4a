"""Station: chamber and piston volumes, and the compression ratio they give."""
