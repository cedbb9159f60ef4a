"""Station: the mock-up, the conditions every later reading carries."""
