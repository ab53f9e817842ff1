"""What this home has and did: the store and its unit of work."""
