"""The demo: a made-up shop with people and builds; present only on loopback in demo mode."""
