"""Station: quench cold, at the middle and highest edge, and the running estimate."""
