"""`python -m frost_tally`."""

from .cli import app

app()
