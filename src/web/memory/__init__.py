"""Pages of what the shop remembers: instruments, people and parts, engines alike, two builds side by side."""
