"""One module per room: load, ask the core, return a result without a view."""
