"""Station: pushrods, their zero-lash length and the ones to buy, and the wipe across the valve's tip."""
