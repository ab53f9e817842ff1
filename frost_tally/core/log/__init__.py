"""The log: what entries have, what does not go together, and what they add up to."""
