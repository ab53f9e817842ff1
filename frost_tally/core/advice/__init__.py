"""What to do, from all the rest of the core."""
