"""What was read at the bench, and what each set of readings amounts to before anything is judged."""
