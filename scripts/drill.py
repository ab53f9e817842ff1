"""`make drill`: kill Frost Tally at random moments of writing, undoing, importing, migrating, copying, replacing and deleting everything.

Every process is a fork of this one that is killed (SIGKILL) some milliseconds after it began. Then its data must open, be sound and
whole, and hold everything that was acknowledged.
"""

import gzip
import os
import random
import shutil
import signal
import sqlite3
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import select

from frost_tally.demo.filling import fill
from frost_tally.demo.world import demo_world
from frost_tally.household.models import DepartureRow
from frost_tally.household.store import backup, open_store, restore, rows
from frost_tally.household.unit_of_work import Household
from frost_tally.household.whole_file import StoreError
from frost_tally.services.departures.room import TypedDeparture, keep_departure
from frost_tally.services.log_data import room as my_data
from frost_tally.services.log_entry import quick as log_quick
from frost_tally.services.log_import import intervals as imports
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from tests.homes import read, tables

FIXTURE = Path(__file__).resolve().parents[1] / "tests" / "household" / "data" / "store_0005.db.gz"
KILLS, WRITES, LONGEST_S, LARGE_S = 500, 30, 0.6, 8.0
READINGS = b"start,minutes,kwh\n" + b"".join(
    b"2026-%02d-%02dT%02d:00+00:00,60,0.5\n" % (month, day, hour)
    for month in range(1, 6)
    for day in range(1, 29)
    for hour in range(24)
)
CHARGES = b"car,begun_at,ended_at,site,soc_start,soc_end,wall_kwh\n" + b"".join(
    b"Marten,20%02d-%02d-%02dT22:00:00+00:00,20%02d-%02d-%02dT23:00:00+00:00,home,40,60,13\n" % (2 * (year, month, day))
    for year in range(10, 20)
    for month in range(1, 13)
    for day in range(1, 29)
)
LARGE_ROWS = 100_000
TOLD = Callable[[str], None]


@dataclass(frozen=True)
class Place:
    """The data of one drill."""

    database: Path
    backups: Path

    def home(self) -> Household:
        """Opened, in the demo's world."""
        engine = open_store(self.database, self.backups)
        return Household(engine, demo_world(engine))

    def count(self, table: str, database: Path | None = None) -> int:
        """Rows of a table, of the data or of a copy."""
        return rows(database or self.database)[table]


def write(at: Place, tell: TOLD) -> None:
    """Departures, one after the other."""
    home = at.home()
    with tables(home) as session:
        first = session.scalars(select(DepartureRow)).first()
        typed = TypedDeparture(name="x", at=first.at, days=frozenset({1}), on_date=None, region="", warm_up="cabin", km=4.0)  # type: ignore[union-attr]
    now = demo_world(home.engine).clock.now()
    for _ in range(WRITES):
        keep_departure(home, now, 1, typed=typed)
        tell("one")


def take(at: Place, tell: TOLD) -> None:
    """A file of readings, whole or not at all."""
    home = at.home()
    imports.take(home, imports.prepare(home, read(home), "readings", name="a.csv", content=READINGS))
    tell("all")


def note(at: Place, tell: TOLD) -> None:
    """Quick entries, one after the other."""
    home = at.home()
    now = demo_world(home.engine).clock.now()
    for i in range(WRITES):
        log_quick.quick(home, now + timedelta(minutes=i), 2, 0.54, None, say=lambda noted: noted.name)
        tell("one")


def take_entries(at: Place, tell: TOLD) -> None:
    """A file of charges, whole or not at all."""
    home = at.home()
    taking.take(home, log_files.receive(home, read(home), "a.csv", CHARGES), whole=True)
    tell("all")


def _large() -> bytes:
    """A hundred thousand charges of two cars, three hours apart."""
    first, lines = datetime(1990, 1, 1, tzinfo=UTC), ["car,begun_at,ended_at,site,soc_start,soc_end,wall_kwh"]
    for i in range(LARGE_ROWS):
        at = first + timedelta(hours=3 * i)
        lines.append(f"{'Marten' if i % 2 else 'Dray'},{at.isoformat()},{(at + timedelta(hours=2)).isoformat()},home,40,60,13")
    return "\n".join(lines).encode()


def take_large(at: Place, tell: TOLD) -> None:
    """A file of a hundred thousand charges, whole or not at all."""
    home = at.home()
    taking.take(home, log_files.receive(home, read(home), "a.csv", _large()))
    tell("all")


def undo(at: Place, tell: TOLD) -> None:
    """A departure entered and taken back, again and again."""
    home = at.home()
    for _ in range(WRITES):
        with home.deciding("one") as session:
            row = session.scalars(select(DepartureRow)).first()
            row.km = row.km + 1  # type: ignore[union-attr]
        home.undo(session.number)
        tell("back")


def bring_back(at: Place, tell: TOLD) -> None:
    """Everything taken out and brought back, again and again."""
    home = at.home()
    while True:
        content = "".join(my_data.document_of(at.database)).encode()
        ready = my_data.prepare_document(at.database, content)
        my_data.bring_back(home, at.backups, ready.number, read(home).revision)
        tell("back")


def delete(at: Place, tell: TOLD) -> None:
    """Everything deleted; a copy is kept."""
    tell(str(my_data.delete_all(at.home(), at.backups, "delete")))


def migrate_old(at: Place, tell: TOLD) -> None:
    """Old tables to today's."""
    at.home()
    tell("done")


def copy_out(at: Place, tell: TOLD) -> None:
    """Copies, one after the other."""
    while True:
        tell(str(backup(at.database, at.backups)))


def copy_in(at: Place, tell: TOLD) -> None:
    """A copy put back, again and again."""
    copy = next(at.backups.glob("*.db"))
    while True:
        restore(copy, at.database, at.backups)
        tell("restored")


UNCHANGED = ("copy_out", "copy_in", "migrate_old", "undo", "bring_back")
"""What leaves the log and the cars as they were, wherever it is cut."""


def judged(kind: str, at: Place, before: dict[str, int], told: list[str]) -> str:
    """What became of the data: nothing when all is well."""
    try:
        at.home().engine.dispose()
    except StoreError as problem:
        return f"does not start: {problem}"
    for copy in at.backups.glob("*.db"):
        with closing(sqlite3.connect(copy)) as found:
            if (
                found.execute("PRAGMA integrity_check").fetchone()[0] != "ok"
                or not found.execute("SELECT count(*) FROM car").fetchone()[0]
            ):
                return "unsound copy"
    after = rows(at.database)
    if kind == "write" and not before["departure"] + len(told) <= after["departure"] <= before["departure"] + len(told) + 1:
        return f"lost: {after['departure'] - before['departure']} of {len(told)}"
    if kind == "note" and not before["reading"] + len(told) <= after["reading"] <= before["reading"] + len(told) + 1:
        return f"lost: {after['reading'] - before['reading']} of {len(told)}"
    came = after["charge"] - before["charge"]
    if kind == "take_entries" and came not in ({len(CHARGES.splitlines()) - 1} if told else {0, len(CHARGES.splitlines()) - 1}):
        return f"lost: {came} charges"
    if kind == "take" and after["meter"] not in (
        {len(READINGS.splitlines()) - 1} if told else {0, len(READINGS.splitlines()) - 1}
    ):
        return f"lost: {after['meter']} readings"
    if kind == "take_large" and came not in ({LARGE_ROWS} if told else {0, LARGE_ROWS}):
        return f"lost: {came} charges"
    if kind == "delete" and (after["car"], bool(told)) not in ((0, True), (0, False), (before["car"], False)):
        return f"lost: {after['car']} cars after {len(told)} deletes"
    if kind == "delete" and not after["car"] and not list(at.backups.glob("*.db")):
        return "lost: no copy was kept"
    if kind in UNCHANGED and (before["drive"], before["car"]) != (after["drive"], after["car"]):
        return f"lost: {before['drive']} drives became {after['drive']}"
    if kind == "copy_out" and any(not Path(each).exists() for each in told):
        return "lost: a copy"
    return ""


def killed(act: Callable[[Place, TOLD], None], at: Place, after_s: float) -> list[str]:
    """Run it in a process of its own, kill that, and return what it had acknowledged."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reading)

        def tell(said: str) -> None:
            os.write(writing, f"{said}\n".encode())

        with suppress(BaseException):
            act(at, tell)
        os._exit(0)
    os.close(writing)
    time.sleep(after_s)
    with suppress(ProcessLookupError):
        os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    with os.fdopen(reading) as told:
        return told.read().splitlines()


def main() -> None:
    """Drill, and print the counts."""
    kills, draw = int(sys.argv[1]) if len(sys.argv) > 1 else KILLS, random.Random(7)
    counts, cut = Counter[str](), 0
    every = (write, note, take, take_entries, take_large, undo, bring_back, delete, migrate_old, copy_out, copy_in)
    acts = {each.__name__: each for each in every}
    with tempfile.TemporaryDirectory() as folder:
        sound, old = Path(folder) / "sound.db", Path(folder) / "old.db"
        engine = open_store(sound, Path(folder) / "none")
        fill(Household(engine, demo_world(engine)), years=0.05)
        engine.dispose()
        old.write_bytes(gzip.decompress(FIXTURE.read_bytes()))
        renewed = Path(folder) / "renewed.db"
        shutil.copy(old, renewed)
        open_store(renewed, Path(folder) / "none").dispose()
        for i in range(kills):
            kind = list(acts)[i % len(acts)]
            place = Place(Path(folder) / str(i) / "household.db", Path(folder) / str(i) / "backups")
            place.backups.mkdir(parents=True)
            shutil.copy(old if kind == "migrate_old" else sound, place.database)
            if kind == "copy_in":
                backup(place.database, place.backups)
            told = killed(acts[kind], place, draw.uniform(0.0, LARGE_S if kind == "take_large" else LONGEST_S))
            short = dict.fromkeys(("migrate_old", "take", "take_entries", "take_large", "delete"), not told)
            cut += (short | dict.fromkeys(("write", "note"), len(told) < WRITES)).get(kind, True)
            problem = judged(kind, place, rows(renewed if kind == "migrate_old" else sound), told)
            counts[problem.split(":")[0] or "well"] += 1
            if problem:
                print(f"{i} {kind}: {problem}")
            shutil.rmtree(place.database.parent)
    print(
        f"{kills} kills, {cut} of them before the work was done: {', '.join(f'{n} {what}' for what, n in counts.most_common())}"
    )
    sys.exit(0 if counts["well"] == kills else 1)


if __name__ == "__main__":
    main()
