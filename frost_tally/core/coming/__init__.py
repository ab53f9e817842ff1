"""The coming week: what is true of each car now, and what lies ahead of it."""
