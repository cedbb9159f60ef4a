"""Pictures as evidence: taken in, stripped, kept privately with the shop, and what was measured in them."""
