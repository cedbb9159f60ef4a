"""What a cam card leaves open: many made-up lobes, and the table of their shapes that ships with the core."""
