"""Words for people at the bench: how each station's work is done, and what the trade's terms mean."""
