"""The command line: serve, demo, tonight, import, export, backup, restore, people. Each command loads what it needs when it is given, so
that help, and what needs little, answer at once.
"""

import gc
import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from .cli_shared import Demo, settings_of

app = typer.Typer(
    help="Frost Tally: charging an electric car at home in a real winter.", no_args_is_help=True, pretty_exceptions_enable=False
)
people = typer.Typer(help="Who may sign in from the home network.", no_args_is_help=True)
app.add_typer(people, name="person")
stand_ins = typer.Typer(help="Simulated devices, to try things with.", no_args_is_help=True)
app.add_typer(stand_ins, name="stand-in")
Port = Annotated[int | None, typer.Option(min=1, max=65535)]


@app.command("serve")
def serve_own(port: Port = None) -> None:
    """Start on your own data."""
    from .cli_out import out
    from .serve import serve

    serve(settings_of(port=port), out)


@app.command("demo")
def serve_demo(port: Port = None) -> None:
    """Start with the made-up household."""
    from .cli_out import out
    from .serve import serve

    serve(settings_of(True, port), out)


@app.command("tonight")
def tonight(
    as_json: Annotated[bool, typer.Option("--json", help="Everything as one JSON object.")] = False,
    use_demo: Demo = False,
    car: int | None = None,
) -> None:
    """Say the plan for tonight."""
    gc.disable()  # a second's work whose memory goes with it: looking for what is done with takes a fifteenth of it
    try:
        from .cli_tonight import show_tonight

        show_tonight(as_json, use_demo, car)
    finally:
        gc.enable()


@app.command("replay")
def replay_nights(
    nights: Annotated[int, typer.Option(min=1, max=5000, help="How many made-up nights.")] = 365,
    faults: Annotated[
        int, typer.Option(min=0, max=99_999, metavar="SEED", help="The number that their faults are drawn by.")
    ] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="The figures as one JSON object.")] = False,
    use_demo: Demo = False,
    car: int | None = None,
) -> None:
    """Live through made-up nights with faults: with the runner, with nobody who watches, and as who knew all."""
    from .cli_tonight import show_replay

    show_replay(nights, faults, as_json, use_demo, car)


@app.command("doctor")
def look_over(use_demo: Demo = False) -> None:
    """Look whether everything that a start needs is well, with advice."""
    from .cli_doctor import doctor

    raise typer.Exit(0 if doctor(use_demo) else 1)


@app.command("backup")
def copy_out(use_demo: Demo = False) -> None:
    """Copy the data to the backups folder."""
    from .cli_out import out
    from .household.store import backup

    settings = settings_of(use_demo)
    out.print(f"Copied to {backup(settings.database, settings.backups)}", soft_wrap=True)


@app.command("restore")
def copy_in(copy: Path, use_demo: Demo = False) -> None:
    """Put a copy back in place; what was there is kept in the backups folder."""
    from .cli_files import tell_rows
    from .cli_out import out
    from .household.store import restore

    settings = settings_of(use_demo)
    kept = restore(copy, settings.database, settings.backups, tell_rows)
    out.print("Restored." + (f" The data from before is at {kept}" if kept else ""), soft_wrap=True)


@app.command("export")
def export_all(
    target: Path,
    use_demo: Demo = False,
    again: Annotated[bool, typer.Option("--force", help="Over a file that is there.")] = False,
) -> None:
    """Write everything as one JSON document (FILE.json), or the whole log as a table (FILE.csv)."""
    from . import cli_files

    cli_files.export_all(target, use_demo, again)


@app.command("import")
def import_file(
    source: Path,
    use_demo: Demo = False,
    dry: Annotated[bool, typer.Option("--dry-run", help="Only say what it would do.")] = False,
    car: Annotated[str, typer.Option(help="Whose drive a track is; the first car’s without.")] = "",
    tariff: Annotated[str, typer.Option(help="The tariff that dated prices belong to.")] = "",
) -> None:
    """Take over a file of any format that has a reader: entries, a track, hours, a tariff, or everything (in place of what is there)."""
    from . import cli_files

    cli_files.import_file(source, use_demo, dry, car, tariff)


@app.command("certificate")
def certificate(
    names: Annotated[list[str], typer.Argument(help="The home's name, and addresses.")], use_demo: Demo = False
) -> None:
    """Make a certificate for the home's name, and say how a phone comes to trust it."""
    from . import cli_people

    cli_people.certificate(names, use_demo)


@people.command("add")
def add_person(
    name: str,
    reader: Annotated[bool, typer.Option("--reader", help="Sees everything and changes nothing.")] = False,
    use_demo: Demo = False,
) -> None:
    """Let somebody sign in; asks for a pass phrase."""
    from . import cli_people

    cli_people.add(name, reader, use_demo)


@people.command("list")
def list_people(use_demo: Demo = False) -> None:
    """Who may sign in."""
    from . import cli_people

    cli_people.tell(use_demo)


@people.command("phrase")
def another_phrase(name: str, use_demo: Demo = False) -> None:
    """Another pass phrase for somebody, who signs in anew everywhere."""
    from . import cli_people

    cli_people.another_phrase(name, use_demo)


@people.command("remove")
def remove_person(name: str, use_demo: Demo = False) -> None:
    """Nobody signs in by this name any more."""
    from . import cli_people

    cli_people.remove(name, use_demo)


@stand_ins.command("charge-point")
def simulated_point(
    name: Annotated[str, typer.Option(help="Its name, as the Garage has it.")],
    password: Annotated[str, typer.Option(envvar="FROST_TALLY_POINT_PASSWORD", prompt=True, hide_input=True)],
    address: Annotated[str, typer.Option(help="The server that it speaks to.")] = "ws://127.0.0.1:8642",
    version: Annotated[str, typer.Option(help="Of the protocol: 1.6 or 2.0.1.")] = "1.6",
    soc: Annotated[float, typer.Option(min=0.0, max=100.0, help="The level of its car, in per cent.")] = 40.0,
    limit: Annotated[float, typer.Option(min=10.0, max=100.0, help="Where its car stops by itself, in per cent.")] = 100.0,
    fast: Annotated[
        float, typer.Option(min=0.1, max=10_000.0, help="How many times as fast as a real clock its own goes.")
    ] = 1.0,
    tells: Annotated[bool, typer.Option(help="Whether its car tells its level.")] = True,
) -> None:
    """Be a charge point with a car on its cable, over a real socket."""
    from .cli_standin import charge_point

    charge_point(address, name, password, version=version, soc=soc / 100, limit=limit / 100, fast=fast, tells=tells)


def main() -> None:
    """The command; what goes wrong is said in a sentence, with exit code 2."""
    gc.set_threshold(100_000)  # what a start loads stays: the collector need not look at it again and again
    try:
        app()
    except Exception as problem:
        from rich.console import Console

        from .cli_faults import DEBUG, plainly

        if os.environ.get(DEBUG, "").lower() in ("1", "true", "yes"):
            raise
        Console(stderr=True).print(plainly(problem), soft_wrap=True, markup=False, highlight=False)
        sys.exit(2)
