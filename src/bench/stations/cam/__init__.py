"""Station: the cam, by card or as measured, degreed, and the lift that arrives at the valve."""
