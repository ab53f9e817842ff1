"""A simulated charge point with a simulated car, which speaks the real protocol over a real socket."""
