"""The command line: serve, demo, tonight, import, export, backup, restore."""

import gc
import json
import os
import sys
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError
from pydantic_settings import SettingsError
from rich.console import Console
from sqlalchemy.exc import SQLAlchemyError

from . import cli_files as files
from .access.tables import AccessRefused
from .cli_files import Demo, out, settings_of
from .cli_people import certificate, people
from .core.errors import Refusal
from .core.home import NotSetUp
from .demo import open_home
from .household.snapshot import Snapshot
from .household.store import backup, restore
from .household.whole_file import StoreError
from .serve import CannotStart, serve
from .services.tonight.room import Tonight, tonight
from .settings import PREFIX, complaint
from .web.page import units_for
from .web.words.night import verdict

app = typer.Typer(
    help="Frost Tally: charging an electric car at home in a real winter.", no_args_is_help=True, pretty_exceptions_enable=False
)
Port = Annotated[int | None, typer.Option(min=1, max=65535)]


@app.command("serve")
def serve_own(port: Port = None) -> None:
    """Start on your own data."""
    serve(settings_of(port=port), out)


@app.command("demo")
def serve_demo(port: Port = None) -> None:
    """Start with the made-up household."""
    serve(settings_of(True, port), out)


@app.command("tonight")
def show_tonight(
    as_json: Annotated[bool, typer.Option("--json", help="Everything as one JSON object.")] = False,
    use_demo: Demo = False,
    car: int | None = None,
) -> None:
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
    said = verdict(night, units_for(snapshot.home.person()))
    if as_json:
        typer.echo(
            json.dumps({"sentence": said.plain, "notes": list(said.notes), **plan_as_dict(night)}, ensure_ascii=False, indent=2)
        )
        return
    out.print(said.plain, soft_wrap=True)
    for each in said.notes:
        out.print(f"- {each}", soft_wrap=True)


def _local(night: Tonight, moment: datetime) -> str:
    return moment.astimezone(night.zone).isoformat(timespec="seconds")


def plan_as_dict(night: Tonight) -> dict[str, object]:
    """The plan in SI and ISO 8601, for scripts."""
    plan, tally = night.plan, night.tally
    return {
        "car": night.car.name,
        "currency": night.currency,
        "departure": _local(night, plan.request.departure),
        "cost": round(plan.cost, 4),
        "cost_at_once": round(plan.cost_at_once, 4),
        "soc_departure": round(plan.soc_departure, 4),
        "arrival_soc": {name: round(max(0.0, level), 4) for name, level in asdict(night.arrival).items()},
        "missing_soc": round(max(0.0, -night.arrival.likely), 4),
        "short_soc": round(plan.short_soc, 4),
        "warm_up": _local(night, plan.warm_start) if plan.warm.lead_s > 0 else None,
        "charging": [
            {
                "start": _local(night, b.start),
                "end": _local(night, b.end),
                "wall_kwh": round(b.wall_kwh, 3),
                "cost": round(b.cost, 4),
            }
            for b in plan.blocks
        ],
        "tally_km": None
        if tally is None
        else {
            "mild_day": round(tally.mild_km, 2),
            **{s.cause.key: round(-s.lost_km, 2) for s in tally.steps},
            "tomorrow": round(tally.expected_km, 2),
        },
    }


@app.command("backup")
def copy_out(use_demo: Demo = False) -> None:
    """Copy the data to the backups folder."""
    settings = settings_of(use_demo)
    out.print(f"Copied to {backup(settings.database, settings.backups)}", soft_wrap=True)


@app.command("restore")
def copy_in(copy: Path, use_demo: Demo = False) -> None:
    """Put a copy back in place; what was there is kept in the backups folder."""
    settings = settings_of(use_demo)
    kept = restore(copy, settings.database, settings.backups, files.tell_rows)
    out.print("Restored." + (f" The data from before is at {kept}" if kept else ""), soft_wrap=True)


app.add_typer(people, name="person")
app.command("certificate")(certificate)
app.command("export")(files.export_all)
app.command("import")(files.import_file)


def main() -> None:
    """The command; what goes wrong is said in a sentence, with exit code 2."""
    gc.freeze()  # what every start loads stays: the collector need not look at it again and again
    try:
        app()
    except Exception as problem:
        if os.environ.get(f"{PREFIX}DEBUG", "").lower() in ("1", "true", "yes"):
            raise
        Console(stderr=True).print(_plainly(problem), soft_wrap=True, markup=False, highlight=False)
        sys.exit(2)


def _plainly(problem: Exception) -> str:
    match problem:
        case StoreError() | CannotStart() | AccessRefused() | Refusal():
            return str(problem)
        case ValidationError() | SettingsError():
            return complaint(problem)
        case SQLAlchemyError() | OSError():
            return f"The data could not be read or written: {getattr(problem, 'orig', None) or problem}. Nothing was changed."
    return f"That was not foreseen: {type(problem).__name__}: {problem}. {PREFIX}DEBUG=1 shows where."
