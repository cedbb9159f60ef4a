"""Station: pushrods, their zero-lash length, the ones to buy, and the wipe."""
