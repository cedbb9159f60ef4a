"""How the parts move: the slider-crank now, lobes and valve lift with the cam."""
