"""The stand: the shop's builds, and the start of a new one."""
