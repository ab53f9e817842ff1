"""The simulated outside world, each part behind a small Protocol."""
