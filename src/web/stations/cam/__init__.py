"""Station: the cam, by card or as measured, degreed, and the lift at the valve."""
