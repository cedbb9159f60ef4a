"""Station: quench cold, in the middle and at the highest edge, and the running estimate beside it."""
