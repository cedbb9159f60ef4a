"""People and shops, and the one place that answers what somebody may see."""
