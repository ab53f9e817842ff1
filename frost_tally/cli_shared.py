"""What the commands share. Nothing heavy is loaded for it: help answers at once."""

from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from .settings import Settings

Demo = Annotated[bool, typer.Option("--demo", help="Use the made-up household.")]


def settings_of(demo: bool = False, port: int | None = None) -> "Settings":
    """The settings, with what was asked for on the command line."""
    from .settings import Settings

    given = Settings()
    return given.model_copy(update={"demo": demo or given.demo, "port": port or given.port})
