"""The demo: made-up shop, people and builds; present only on loopback in demo mode."""
