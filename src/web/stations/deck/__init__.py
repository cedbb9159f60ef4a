"""Station: deck clearance of every cylinder."""
