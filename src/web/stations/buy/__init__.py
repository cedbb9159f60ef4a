"""Station: what to know before buying a gasket, pistons or a cam."""
