"""Station: the verdict, every check with its trail, and the margin sheet it is judged by."""
