"""What a figure is judged by: limits, the sheets they stand on, and who signs what is not clear."""
