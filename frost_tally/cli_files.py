"""The command line's files: everything or the log out, any format that has a reader in."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from rich.progress import Progress

from .cli_out import out
from .cli_shared import settings_of
from .core.errors import Refusal
from .core.home import named
from .formats.gpx import Track
from .formats.readers import Here, kind_of, read_file
from .formats.tariff_json import TariffFile
from .household.calendar import holidays_of
from .household.snapshot import Snapshot
from .household.store import claim
from .household.unit_of_work import Household
from .opening import open_home
from .services import tariffs
from .services.log import log_pieces
from .services.log_data import room as my_data
from .services.log_entry import quick as log_quick
from .services.log_import import intervals as imports
from .services.log_import import room as log_files
from .services.log_import import taking
from .settings import Settings
from .web.words.log import KIND_WORDS, TABLE_WORDS


@contextmanager
def opened(settings: Settings) -> Iterator[Household]:
    """The home of these settings, closed again afterwards."""
    household = open_home(settings)
    try:
        yield household
    finally:
        household.engine.dispose()


def export_all(target: Path, use_demo: bool, again: bool) -> None:
    """Write everything as one JSON document (FILE.json), or the whole log as a table (FILE.csv)."""
    settings = settings_of(use_demo)
    if target.exists() and not again:
        raise Refusal(f"{target} is there already: choose another name, or give --force.")
    part = target.with_name(f"{target.name}.part")
    with opened(settings) as household, household.reading() as snapshot, Progress(console=out, transient=True) as progress:
        task = progress.add_task("Writing", total=None)
        with part.open("w", encoding="utf-8", newline="") as file:
            for piece in log_pieces(snapshot) if target.suffix.lower() == ".csv" else my_data.document_of(settings.database):
                file.write(piece)
                progress.advance(task)
    part.replace(target)
    out.print(f"Written to {target}", soft_wrap=True)


def import_file(source: Path, use_demo: bool, dry: bool, car: str, tariff: str) -> None:
    """Take over a file of any format that has a reader: entries, a track, hours, a tariff, or everything (in place of what is there)."""
    settings = settings_of(use_demo)
    content = _content(source, settings.max_file_bytes)
    what = kind_of(content)
    if what == "everything":
        _import_everything(settings, source, content, dry)
        return
    with opened(settings) as household:
        _import_into(household, what, source, content=content, dry=dry, car=car, tariff=tariff)


def _import_into(household: Household, what: str, source: Path, *, content: bytes, dry: bool, car: str, tariff: str) -> None:
    if what == "log":
        with Progress(console=out, transient=True) as progress:
            _import_log(household, source, content, dry, progress)
    elif what == "tariff":
        _import_tariff(household, source, content, dry)
    elif what == "track":
        _import_track(household, content, dry, car)
    else:
        with household.reading() as snapshot:
            known = {name: number for number, name in named(snapshot.home.contracts)}
        number = _named(tariff, known, "--tariff") if what == "prices" else None
        _import_hours(household, what, source, content=content, dry=dry, tariff=number)


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
    with opened(settings) as household, claim(settings.database):
        ready = my_data.prepare_document(settings.database, content, source.name)
        tell_rows(ready.rows)
        if ready.missing:
            missing = ", ".join(TABLE_WORDS.get(each, each) for each in ready.missing)
            out.print(f"It says nothing at all of: {missing}.", soft_wrap=True)
        if dry:
            my_data.leave(household, ready.number)
            out.print("Nothing was changed.")
            return
        with household.reading() as snapshot:
            revision = snapshot.revision
        kept = my_data.bring_back(household, settings.backups, ready.number, revision)
    out.print(f"{source} is in place. The data from before is at {kept}", soft_wrap=True)


def _import_log(household: Household, source: Path, content: bytes, dry: bool, progress: Progress) -> None:
    task = progress.add_task("Reading", total=1.0)
    with household.reading() as snapshot:
        number = log_files.receive(household, snapshot, source.name, content)
    if _preview(household, number).choice is None:
        log_files.forget(household, number)
        raise Refusal(f"The columns of {source.name} are not ours: open it once under Log, Import, and say which is what.")
    tell = lambda share: progress.update(task, completed=share)  # noqa: E731
    try:
        log_files.look(household, number, tell) if dry else taking.take(household, number, tell, whole=True)
    except taking.BadRows as problem:
        log_files.forget(household, number)
        _bad_rows(problem.bad)
        raise Refusal(
            f"{problem.count} rows cannot be used. Nothing was changed: mend them, or open the file in the page."
        ) from None
    found = _preview(household, number)
    for kind, (added, changed, same) in found.counts.items():
        out.print(f"{KIND_WORDS[kind]}: {added} new, {changed} changed, {same} there already", soft_wrap=True)
    _bad_rows(found.bad)
    if dry:
        log_files.forget(household, number)
        out.print(f"{found.bad_count} rows cannot be used. Nothing was changed.")
    elif found.added + found.changed:
        out.print(f"{found.added + found.changed} entries taken over. They can be taken back under Log, Import.")
    else:
        out.print("Nothing in it is new.")


def _preview(household: Household, number: str) -> log_files.LogPreview:
    with household.reading() as snapshot:
        return log_files.preview(snapshot, number)


def _bad_rows(bad: tuple[tuple[int, str, str], ...]) -> None:
    for line, column, reason in bad:
        out.print(f"line {line}, {column or 'the row'}: {reason}", soft_wrap=True, markup=False)


def _import_hours(household: Household, kind: str, source: Path, *, content: bytes, dry: bool, tariff: int | None) -> None:
    with household.reading() as snapshot:
        number = imports.prepare(household, snapshot, kind, name=source.name, content=content, tariff=tariff)
    with household.reading() as snapshot:
        found = imports.preview(snapshot, number)
    out.print(f"{found.added} new, {found.changed} changed, {found.same} there already, {found.bad_count} that cannot be used")
    _bad_rows(found.bad)
    if found.bad_count and not dry:
        raise Refusal(f"{found.bad_count} rows cannot be used. Nothing was changed.")
    if dry or not found.added + found.changed:
        out.print("Nothing was changed.")
        return
    imports.take(household, number)
    out.print(f"{found.added + found.changed} taken over.")


def _import_tariff(household: Household, source: Path, content: bytes, dry: bool) -> None:
    with household.reading() as snapshot:
        _take_tariff(household, snapshot, source, content, dry)


def _take_tariff(household: Household, snapshot: Snapshot, source: Path, content: bytes, dry: bool) -> None:
    home = snapshot.home
    file: TariffFile = read_file("tariff", content, Here(home.place.zone, holidays_of))
    draft, series = tariffs.draft_of(file), file.tariff.series
    prices = f", {len(series.start_s)} dated prices" if series is not None else ""
    out.print(f"Tariff “{draft.name}”: {len(draft.palette)} prices, {len(draft.seasons) - 1} seasons{prices}.", soft_wrap=True)
    for each in file.notes:
        out.print(f"- {each}", soft_wrap=True, markup=False)
    if file.tariff.currency != home.currency:
        raise Refusal(f"Its prices are in {file.tariff.currency}, yours in {home.currency}. Nothing was changed.")
    if dry:
        out.print("Nothing was changed.")
        return
    held = imports.hold(household, snapshot, source.name, series) if series is not None else ""
    tariffs.keep(household, draft, snapshot.revision, None, held)
    out.print("Taken over. Choose it for a car under Garage.")


def _import_track(household: Household, content: bytes, dry: bool, car: str) -> None:
    with household.reading() as snapshot:
        now, zone = snapshot.now, snapshot.home.place.zone
        known = {name: number for number, name in snapshot.home.names}
    if not known:
        raise Refusal("There is no car yet: set one up first.")
    number = _named(car or next(iter(known)), known, "--car")
    track: Track = read_file("track", content, Here(zone, holidays_of))
    out.print(f"{track.km:.1f} km in {track.hours:.1f} h.")
    if dry:
        out.print("Nothing was changed.")
        return
    log_quick.note_track(household, now, number, track, "Track noted")
    out.print("Noted as a drive; its levels are those of the model, and marked as assumed.")


def tell_rows(rows: Mapping[str, int]) -> None:
    """What a copy has in it."""
    found = ", ".join(f"{count} {TABLE_WORDS[name]}" for name, count in rows.items() if count and name in TABLE_WORDS)
    out.print(f"In it: {found or 'an empty household'}.", soft_wrap=True)
