"""Open formats in and out: one module each, no database."""
