"""Station: the verdict, every check with its corrections, and the limits it is judged by."""
