"""Frost Tally: charging an electric car at home in a real winter."""

__version__ = "0.1.0"
