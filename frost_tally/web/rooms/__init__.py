"""One module of routes per room."""
