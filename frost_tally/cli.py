"""The command line: serve, demo, tonight, backup, restore."""

import json
import logging
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Annotated

import structlog
import typer
import uvicorn
from rich.console import Console

from .core.errors import Refusal
from .demo import open_home
from .household.store import StoreError, backup, restore
from .services import clock
from .services.evening import NotSetUp
from .services.tonight import Tonight, tonight
from .settings import Settings
from .web.app import create_app
from .web.page import units_of
from .web.words.night import verdict

app = typer.Typer(help="Frost Tally: charging an electric car at home in a real winter.", no_args_is_help=True)
out = Console()
Demo = Annotated[bool, typer.Option("--demo", help="Use the made-up household.")]


def _settings(demo: bool = False, port: int | None = None) -> Settings:
    given = Settings()
    return given.model_copy(update={"demo": demo or given.demo, "port": port or given.port})


def _log(settings: Settings) -> None:
    """One JSON object a line, on standard error."""
    level = logging.getLevelNamesMapping().get(settings.log_level.upper(), logging.INFO)
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(),
    )


def _run(settings: Settings) -> None:
    _log(settings)
    home = open_home(settings)
    out.print(f"Frost Tally is at [bold]http://{settings.host}:{settings.port}[/bold]   (stop with Ctrl-C)")
    uvicorn.run(create_app(settings, home), host=settings.host, port=settings.port, log_level="warning", server_header=False)


@app.command()
def serve(port: int | None = None) -> None:
    """Start on your own data."""
    _run(_settings(port=port))


@app.command()
def demo(port: int | None = None) -> None:
    """Start with the made-up household."""
    _run(_settings(True, port))


@app.command("tonight")
def show_tonight(
    as_json: Annotated[bool, typer.Option("--json", help="Everything as one JSON object.")] = False,
    use_demo: Demo = False,
    car: int | None = None,
) -> None:
    """Say the plan for tonight."""
    home = open_home(_settings(use_demo))
    try:
        night = tonight(home, clock.now(home), car)
    except NotSetUp:
        out.print("Nothing is set up yet: start `frost-tally serve` and open the page.")
        raise typer.Exit(1) from None
    except Refusal as refusal:
        out.print(refusal.message)
        raise typer.Exit(1) from None
    said = verdict(night, units_of(home))
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
        "arrival_soc": asdict(night.arrival),
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
    settings = _settings(use_demo)
    try:
        out.print(f"Copied to {backup(settings.database, settings.backups)}", soft_wrap=True)
    except StoreError as problem:
        out.print(str(problem), soft_wrap=True)
        raise typer.Exit(1) from None


@app.command("restore")
def copy_in(copy: Path, use_demo: Demo = False) -> None:
    """Put a copy back in place; what was there is copied to the backups folder before."""
    settings = _settings(use_demo)
    try:
        kept = restore(copy, settings.database, settings.backups)
    except StoreError as problem:
        out.print(str(problem), soft_wrap=True)
        raise typer.Exit(1) from None
    out.print("Restored." + (f" The data from before is at {kept}" if kept else ""), soft_wrap=True)
