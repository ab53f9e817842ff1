"""Where commands print, for people; what only answers scripts does without, for it takes a while to load."""

from rich.console import Console

out = Console()
