"""What a cam card leaves open: made-up lobes, and the table of shapes that ships."""
