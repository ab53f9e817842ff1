"""The pages: rooms, templates, drawings."""
