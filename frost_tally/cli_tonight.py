"""The command line's plan for tonight, as a sentence or as the JSON that scripts get; and nights again."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict

import typer

from .cli_shared import settings_of
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
    with open_home(settings_of(use_demo), looked_through=False).reading() as snapshot:  # it reads little, and writes nothing
        _say_tonight(snapshot, car, as_json)


def show_replay(nights: int, seed: int, as_json: bool, use_demo: bool, car: int | None) -> None:
    """Say what made-up nights came to, with a bar while they are lived through."""
    from rich.console import Console
    from rich.progress import Progress

    from .services.replay import nights_again
    from .web.rooms.replay.words import figures_words

    with open_home(settings_of(use_demo)).reading() as snapshot, Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("Nights", total=nights)
        with _plainly():
            found = nights_again(snapshot, car, nights, seed, lambda: bar.advance(task))
        units = units_for(snapshot.home.person())
    if as_json:
        typer.echo(json.dumps(asdict(found), indent=2))
    else:
        _print(figures_words(found, units))


def _print(words: str) -> None:
    from .cli_out import out

    out.print(words, soft_wrap=True)


@contextmanager
def _plainly() -> Iterator[None]:
    """What cannot be asked of this home, in a sentence."""
    try:
        yield
    except NotSetUp:
        _print("Nothing is set up yet: start `frost-tally serve` and open the page.")
        raise typer.Exit(1) from None
    except Refusal as refusal:
        _print(refusal.message)
        raise typer.Exit(1) from None


def _say_tonight(snapshot: Snapshot, car: int | None, as_json: bool) -> None:
    with _plainly():
        night = tonight(snapshot, car)
    units = units_for(snapshot.home.person())
    if as_json:
        typer.echo(tonight_answer(night, units).model_dump_json(indent=2))
        return
    said = verdict(night, units)
    _print(said.plain)
    for each in said.notes:
        _print(f"- {each}")
