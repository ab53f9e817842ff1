"""The command line: serve, demo, tonight, import, export, backup, restore."""

import gc
import json
import os
import sys
from collections.abc import Mapping
from dataclasses import asdict
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError
from pydantic_settings import SettingsError
from rich.console import Console
from rich.progress import Progress
from sqlalchemy.exc import SQLAlchemyError

from .core.errors import Refusal
from .demo import open_home
from .formats.readers import kind_of
from .household.home import Home
from .household.store import backup, restore
from .household.whole_file import StoreError, discard
from .serve import CannotStart, serve
from .services import clock, imports, log_files, my_data
from .services.evening import NotSetUp
from .services.garage import garage
from .services.log import log_pieces
from .services.tonight import Tonight, tonight
from .settings import PREFIX, Settings, complaint
from .web.page import units_of
from .web.words.log import KIND_WORDS, TABLE_WORDS
from .web.words.night import verdict

app = typer.Typer(
    help="Frost Tally: charging an electric car at home in a real winter.", no_args_is_help=True, pretty_exceptions_enable=False
)
out = Console()
Port = Annotated[int | None, typer.Option(min=1, max=65535)]
Demo = Annotated[bool, typer.Option("--demo", help="Use the made-up household.")]


def _settings(demo: bool = False, port: int | None = None) -> Settings:
    given = Settings()
    return given.model_copy(update={"demo": demo or given.demo, "port": port or given.port})


@app.command("serve")
def serve_own(port: Port = None) -> None:
    """Start on your own data."""
    serve(_settings(port=port), out)


@app.command("demo")
def serve_demo(port: Port = None) -> None:
    """Start with the made-up household."""
    serve(_settings(True, port), out)


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
        names = ", ".join(f"{each.row.id} {each.row.name}" for each in garage(home).cars)
        if car is not None and names:
            out.print(f"There is no car {car}. There are: {names}.")
            raise typer.Exit(1) from None
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
    settings = _settings(use_demo)
    out.print(f"Copied to {backup(settings.database, settings.backups)}", soft_wrap=True)


@app.command("restore")
def copy_in(copy: Path, use_demo: Demo = False) -> None:
    """Put a copy back in place; what was there is kept in the backups folder."""
    settings = _settings(use_demo)
    kept = restore(copy, settings.database, settings.backups, _tell)
    out.print("Restored." + (f" The data from before is at {kept}" if kept else ""), soft_wrap=True)


@app.command("export")
def export_all(
    target: Path,
    use_demo: Demo = False,
    again: Annotated[bool, typer.Option("--force", help="Over a file that is there.")] = False,
) -> None:
    """Write everything as one JSON document (FILE.json), or the whole log as a table (FILE.csv)."""
    settings = _settings(use_demo)
    if target.exists() and not again:
        raise Refusal(f"{target} is there already: choose another name, or give --force.")
    home = open_home(settings)
    part = target.with_name(f"{target.name}.part")
    with Progress(console=out, transient=True) as progress:
        task = progress.add_task("Writing", total=None)
        with part.open("w", encoding="utf-8", newline="") as file:
            for piece in log_pieces(home) if target.suffix.lower() == ".csv" else my_data.document_of(settings.database):
                file.write(piece)
                progress.advance(task)
    part.replace(target)
    out.print(f"Written to {target}", soft_wrap=True)


@app.command("import")
def import_file(
    source: Path,
    use_demo: Demo = False,
    dry: Annotated[bool, typer.Option("--dry-run", help="Only say what it would do.")] = False,
) -> None:
    """Take over a file of any format that has a reader: entries, meter readings, or everything (in place of what is there)."""
    settings = _settings(use_demo)
    content = _content(source, settings.max_file_bytes)
    what = kind_of(content)
    if what == "everything":
        _import_everything(settings, source, content, dry)
    elif what in ("log", "readings", "weather"):
        home = open_home(settings)
        with Progress(console=out, transient=True) as progress:
            (_import_log if what == "log" else partial(_import_hours, what))(home, source, content, dry, progress)
    else:
        raise Refusal(f"{source.name} holds {WHERE[what]}")


WHERE = {
    "tariff": "a tariff: open it under Garage, Tariffs, where you see it painted first.",
    "prices": "dated prices: open the tariff that they belong to under Garage, Tariffs.",
    "track": "a track: open it under Log, Import; it needs the two levels of the drive.",
}


def _content(source: Path, most: int) -> bytes:
    if not source.is_file():
        raise Refusal(f"{source} is not a file.")
    if source.stat().st_size > most:
        raise Refusal(f"{source} is larger than {most} bytes (FROST_TALLY_MAX_FILE_BYTES): split it, or raise that.")
    return source.read_bytes()


def _import_everything(settings: Settings, source: Path, content: bytes, dry: bool) -> None:
    """In place of everything, as a copy is put back: nobody else may be using the data."""
    coming = my_data.coming(settings.database)
    open_home(settings).engine.dispose()
    _tell(my_data.prepare_document(settings.database, content))
    try:
        if dry:
            out.print("Nothing was changed.")
            return
        kept = restore(coming, settings.database, settings.backups)
    finally:
        discard(coming)
    out.print(f"{source} is in place." + (f" The data from before is at {kept}" if kept else ""), soft_wrap=True)


def _import_log(home: Home, source: Path, content: bytes, dry: bool, progress: Progress) -> None:
    task = progress.add_task("Reading", total=1.0)
    number = log_files.receive(home, source.name, content)
    if log_files.preview(home, number).choice is None:
        log_files.forget(home, number)
        raise Refusal(f"The columns of {source.name} are not ours: open it once under Log, Import, and say which is what.")
    tell = lambda share: progress.update(task, completed=share)  # noqa: E731
    try:
        log_files.look(home, number, tell) if dry else log_files.take(home, number, tell, whole=True)
    except log_files.BadRows as problem:
        log_files.forget(home, number)
        _bad_rows(problem.bad)
        raise Refusal(
            f"{problem.count} rows cannot be used. Nothing was changed: mend them, or open the file in the page."
        ) from None
    found = log_files.preview(home, number)
    for kind, (added, changed, same) in found.counts.items():
        out.print(f"{KIND_WORDS[kind]}: {added} new, {changed} changed, {same} there already", soft_wrap=True)
    _bad_rows(found.bad)
    if dry:
        log_files.forget(home, number)
        out.print(f"{found.bad_count} rows cannot be used. Nothing was changed.")
    elif found.added + found.changed:
        out.print(f"{found.added + found.changed} entries taken over. They can be taken back under Log, Import.")
    else:
        out.print("Nothing in it is new.")


def _bad_rows(bad: tuple[tuple[int, str, str], ...]) -> None:
    for line, column, reason in bad:
        out.print(f"line {line}, {column or 'the row'}: {reason}", soft_wrap=True, markup=False)


def _import_hours(kind: str, home: Home, source: Path, content: bytes, dry: bool, progress: Progress) -> None:
    number = imports.prepare(home, kind, source.name, content)
    found = imports.preview(home, number)
    out.print(f"{found.added} new, {found.changed} changed, {found.same} there already, {found.bad_count} that cannot be used")
    if dry or found.bad_count or not found.added + found.changed:
        if found.bad_count and not dry:
            raise Refusal(f"{found.bad_count} rows cannot be used. Nothing was changed.")
        out.print("Nothing was changed.")
        return
    imports.take(home, number)
    out.print(f"{found.added + found.changed} hours taken over.")


def _tell(rows: Mapping[str, int]) -> None:
    """What a copy has in it."""
    found = ", ".join(f"{count} {TABLE_WORDS[name]}" for name, count in rows.items() if count and name in TABLE_WORDS)
    out.print(f"In it: {found or 'an empty household'}.", soft_wrap=True)


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
        case StoreError() | CannotStart() | Refusal():
            return str(problem)
        case ValidationError() | SettingsError():
            return complaint(problem)
        case SQLAlchemyError() | OSError():
            return f"The data could not be read or written: {getattr(problem, 'orig', None) or problem}. Nothing was changed."
    return f"That was not foreseen: {type(problem).__name__}: {problem}. {PREFIX}DEBUG=1 shows where."
