"""Station: indicator or feelers at crank angles about overlap TDC, and the closest approach they give."""
