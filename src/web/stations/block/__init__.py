"""Station: the block, that is the engine as designed and how its log is kept."""
