"""Room 8, Garage: charge points."""
