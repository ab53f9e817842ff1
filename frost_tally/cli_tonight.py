"""The command line's plan for tonight, as a sentence or as the JSON that scripts get."""

import typer

from .cli_shared import out, settings_of
from .core.errors import Refusal
from .core.home import NotSetUp
from .household.snapshot import Snapshot
from .opening import open_home
from .services.tonight.room import tonight
from .web.api.tonight import tonight_answer
from .web.units import units_for
from .web.words.night import verdict


def show_tonight(as_json: bool, use_demo: bool, car: int | None) -> None:
    """Say the plan for tonight."""
    with open_home(settings_of(use_demo)).reading() as snapshot:
        _say_tonight(snapshot, car, as_json)


def _say_tonight(snapshot: Snapshot, car: int | None, as_json: bool) -> None:
    try:
        night = tonight(snapshot, car)
    except NotSetUp:
        out.print("Nothing is set up yet: start `frost-tally serve` and open the page.")
        raise typer.Exit(1) from None
    except Refusal as refusal:
        out.print(refusal.message)
        raise typer.Exit(1) from None
    units = units_for(snapshot.home.person())
    if as_json:
        typer.echo(tonight_answer(night, units).model_dump_json(indent=2))
        return
    said = verdict(night, units)
    out.print(said.plain, soft_wrap=True)
    for each in said.notes:
        out.print(f"- {each}", soft_wrap=True)
