"""The command line's files: everything or the log out, any format that has a reader in."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import Progress

from .core.errors import Refusal
from .demo import open_home
from .formats.gpx import Track
from .formats.readers import Here, kind_of, read_file
from .formats.tariff_json import TariffFile
from .household.calendar import holidays_of
from .household.home import Home
from .household.store import claim
from .services import clock, imports, log_files, log_quick, my_data, tariffs
from .services.garage import garage
from .services.home import basics
from .services.log import log_pieces
from .settings import Settings
from .web.words.log import KIND_WORDS, TABLE_WORDS

out = Console()
Demo = Annotated[bool, typer.Option("--demo", help="Use the made-up household.")]


def settings_of(demo: bool = False, port: int | None = None) -> Settings:
    """The settings, with what was asked for on the command line."""
    given = Settings()
    return given.model_copy(update={"demo": demo or given.demo, "port": port or given.port})


@contextmanager
def opened(settings: Settings) -> Iterator[Home]:
    """The home of these settings, closed again afterwards."""
    home = open_home(settings)
    try:
        yield home
    finally:
        home.engine.dispose()


def export_all(
    target: Path,
    use_demo: Demo = False,
    again: Annotated[bool, typer.Option("--force", help="Over a file that is there.")] = False,
) -> None:
    """Write everything as one JSON document (FILE.json), or the whole log as a table (FILE.csv)."""
    settings = settings_of(use_demo)
    if target.exists() and not again:
        raise Refusal(f"{target} is there already: choose another name, or give --force.")
    part = target.with_name(f"{target.name}.part")
    with opened(settings) as home, Progress(console=out, transient=True) as progress:
        task = progress.add_task("Writing", total=None)
        with part.open("w", encoding="utf-8", newline="") as file:
            for piece in log_pieces(home) if target.suffix.lower() == ".csv" else my_data.document_of(settings.database):
                file.write(piece)
                progress.advance(task)
    part.replace(target)
    out.print(f"Written to {target}", soft_wrap=True)


def import_file(
    source: Path,
    use_demo: Demo = False,
    dry: Annotated[bool, typer.Option("--dry-run", help="Only say what it would do.")] = False,
    car: Annotated[str, typer.Option(help="Whose drive a track is; the first car’s without.")] = "",
    tariff: Annotated[str, typer.Option(help="The tariff that dated prices belong to.")] = "",
) -> None:
    """Take over a file of any format that has a reader: entries, a track, hours, a tariff, or everything (in place of what is there)."""
    settings = settings_of(use_demo)
    content = _content(source, settings.max_file_bytes)
    what = kind_of(content)
    if what == "everything":
        _import_everything(settings, source, content, dry)
        return
    with opened(settings) as home:
        _import_into(home, what, source, content, dry, car, tariff)


def _import_into(home: Home, what: str, source: Path, content: bytes, dry: bool, car: str, tariff: str) -> None:
    if what == "log":
        with Progress(console=out, transient=True) as progress:
            _import_log(home, source, content, dry, progress)
    elif what == "tariff":
        _import_tariff(home, source, content, dry)
    elif what == "track":
        _import_track(home, content, dry, car)
    else:
        number = _named(tariff, {each.name: each.id for each in garage(home).tariffs}, "--tariff") if what == "prices" else None
        _import_hours(home, what, source, content, dry, number)


def _named(name: str, known: Mapping[str, int], option: str) -> int:
    """The number of something by its name. Raises: Refusal that names those that there are."""
    found = next((number for each, number in known.items() if each.casefold() == name.strip().casefold()), None)
    if found is None:
        raise Refusal(f"Give {option} with one of: {', '.join(known) or 'none are there yet'}.")
    return found


def _content(source: Path, most: int) -> bytes:
    if not source.is_file():
        raise Refusal(f"{source} is not a file.")
    if source.stat().st_size > most:
        raise Refusal(f"{source} is larger than {most} bytes (FROST_TALLY_MAX_FILE_BYTES): split it, or raise that.")
    return source.read_bytes()


def _import_everything(settings: Settings, source: Path, content: bytes, dry: bool) -> None:
    """In place of everything, as a copy is put back: nobody else may be using the data."""
    with opened(settings) as home, claim(settings.database):
        ready = my_data.prepare_document(settings.database, content, source.name)
        tell_rows(ready.rows)
        if ready.missing:
            missing = ", ".join(TABLE_WORDS.get(each, each) for each in ready.missing)
            out.print(f"It says nothing at all of: {missing}.", soft_wrap=True)
        if dry:
            my_data.leave(home, ready.number)
            out.print("Nothing was changed.")
            return
        kept = my_data.bring_back(home, settings.backups, ready.number, basics(home).revision)
    out.print(f"{source} is in place. The data from before is at {kept}", soft_wrap=True)


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


def _import_hours(home: Home, kind: str, source: Path, content: bytes, dry: bool, tariff: int | None) -> None:
    number = imports.prepare(home, kind, source.name, content, tariff)
    found = imports.preview(home, number)
    out.print(f"{found.added} new, {found.changed} changed, {found.same} there already, {found.bad_count} that cannot be used")
    _bad_rows(found.bad)
    if found.bad_count and not dry:
        raise Refusal(f"{found.bad_count} rows cannot be used. Nothing was changed.")
    if dry or not found.added + found.changed:
        out.print("Nothing was changed.")
        return
    imports.take(home, number)
    out.print(f"{found.added + found.changed} taken over.")


def _import_tariff(home: Home, source: Path, content: bytes, dry: bool) -> None:
    here = basics(home)
    file: TariffFile = read_file("tariff", content, Here(here.zone, holidays_of))
    draft, series = tariffs.draft_of(file), file.tariff.series
    prices = f", {len(series.start_s)} dated prices" if series is not None else ""
    out.print(f"Tariff “{draft.name}”: {len(draft.palette)} prices, {len(draft.seasons) - 1} seasons{prices}.", soft_wrap=True)
    for each in file.notes:
        out.print(f"- {each}", soft_wrap=True, markup=False)
    if file.tariff.currency != here.currency:
        raise Refusal(f"Its prices are in {file.tariff.currency}, yours in {here.currency}. Nothing was changed.")
    if dry:
        out.print("Nothing was changed.")
        return
    tariffs.keep(home, draft, here.revision, None, imports.hold(home, source.name, series) if series is not None else "")
    out.print("Taken over. Choose it for a car under Garage.")


def _import_track(home: Home, content: bytes, dry: bool, car: str) -> None:
    known = {each.row.name: each.row.id for each in garage(home).cars}
    if not known:
        raise Refusal("There is no car yet: set one up first.")
    number = _named(car or next(iter(known)), known, "--car")
    track: Track = read_file("track", content, Here(basics(home).zone, holidays_of))
    out.print(f"{track.km:.1f} km in {track.hours:.1f} h.")
    if dry:
        out.print("Nothing was changed.")
        return
    log_quick.note_track(home, clock.now(home), number, track, "Track noted")
    out.print("Noted as a drive; its levels are those of the model, and marked as assumed.")


def tell_rows(rows: Mapping[str, int]) -> None:
    """What a copy has in it."""
    found = ", ".join(f"{count} {TABLE_WORDS[name]}" for name, count in rows.items() if count and name in TABLE_WORDS)
    out.print(f"In it: {found or 'an empty household'}.", soft_wrap=True)
