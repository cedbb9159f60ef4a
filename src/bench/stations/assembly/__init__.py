"""Station: final assembly. The list made from the build, the signature under it, and what is written down of it."""
