"""Plans: what could be cut, chosen or changed, and what that would do. A what-if is ``evaluate`` of a changed job."""
