"""Pages of what the shop remembers: instruments, people, parts, engines alike."""
