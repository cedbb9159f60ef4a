"""Station: clay, sliced and measured under every valve."""
