"""`python -m frost_tally`."""

from .cli import main

main()
