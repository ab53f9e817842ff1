"""SVG geometry, one module per picture."""
