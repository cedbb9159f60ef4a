"""Station: the mock-up, whose conditions every later reading carries."""
