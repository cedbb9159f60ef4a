"""Station: the final gasket, chamber and piston volumes, compression ratio."""
