"""What cold and age do to the traction battery."""
