"""Station: indicator or feelers about overlap TDC, and the closest approach."""
