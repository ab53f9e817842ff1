"""What a car needs while it stands, and before the winter."""
