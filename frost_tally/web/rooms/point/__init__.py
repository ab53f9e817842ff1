"""Room 1, a part of Tonight: what the charge point tells, as it tells it."""
