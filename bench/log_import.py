"""A hundred thousand charges taken over: seconds and memory of a process of its own, beside sqlite3's own .import of the same rows."""

import gc
import re
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from frost_tally.opening import open_home
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from frost_tally.settings import Settings
from tests.homes import read

ROWS, TIMES = 100_000, 3
MOST_S, MOST_MB, MOST_RATIO = 6.0, 250.0, 4.0
COLUMNS = (
    "car", "begun_at [ISO 8601]", "ended_at [ISO 8601]", "site", "outlet", "place", "soc_start [%]", "soc_end [%]", "wall_kwh [kWh]",
    "pack_kwh [kWh]", "cost [money]", "out_c [°C]", "note", "source", "assumed",
)  # fmt: skip


def written(file: Path) -> None:
    """The rows, as our own export writes them."""
    first, lines = datetime(1990, 1, 1, tzinfo=UTC), [",".join(COLUMNS)]
    for i in range(ROWS):
        at = first + timedelta(hours=3 * i)
        car, ended = "Marten" if i % 2 else "Dray", at + timedelta(hours=2)
        levels, energy = f"{30 + i % 20},{70 + i % 20}", f"{20 + i % 9}.25,{18 + i % 9}.1,{2 + i % 3}.14"
        lines.append(f"{car},{at.isoformat()},{ended.isoformat()},home,Wall unit,,{levels},{energy},{i % 25 - 10}.5,,meter,")
    file.write_text("\n".join(lines) + "\n")


def ours(file: Path, folder: str) -> tuple[float, float]:
    """Seconds and MB of an import in a process of its own, on a fresh household."""
    done = subprocess.run(
        [sys.executable, "-m", "bench.log_import", str(file), folder], capture_output=True, text=True, check=True
    )
    seconds, megabytes = done.stdout.split()[-2:]
    return float(seconds), float(megabytes)


def theirs(file: Path, folder: str) -> float:
    """Seconds of sqlite3's own .import into a table with as many indexes, nothing checked."""
    database = Path(folder) / "theirs.db"
    database.unlink(missing_ok=True)
    names = ", ".join(f"c{i}" for i in range(len(COLUMNS)))
    keys = "CREATE INDEX a ON charge (c0, c1); CREATE INDEX b ON charge (c1); CREATE INDEX c ON charge (c13);"
    made = f"CREATE TABLE charge ({names}); {keys}"
    subprocess.run(["sqlite3", str(database), made], check=True)
    begun = time.perf_counter()
    subprocess.run(["sqlite3", str(database), ".mode csv", f".import --skip 1 {file} charge"], check=True)
    return time.perf_counter() - begun


def import_against_sqlite() -> None:
    """Both, one after the other, three times; the medians."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "charges.csv"
        written(file)
        runs = [(ours(file, folder), theirs(file, folder)) for _ in range(TIMES)]
    seconds, megabytes = statistics.median(each[0][0] for each in runs), max(each[0][1] for each in runs)
    ratio = statistics.median(mine[0] / reference for mine, reference in runs)
    spent = f"{seconds:.1f} s, {megabytes:.0f} MB (aim under {MOST_S:.0f} s and {MOST_MB:.0f} MB)"
    print(f"{ROWS} charges from a file        {spent}   {ratio:.1f} times sqlite3's own .import (aim {MOST_RATIO:.0f})")


def peak_mb() -> float:
    """The most memory of this process itself, MB; what it was forked from does not count."""
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+) kB", status)[1]) / 1000  # type: ignore[index]


def main() -> None:
    """One import, for the process that measures it: its seconds, and the most memory that it took."""
    content = Path(sys.argv[1]).read_bytes()
    with tempfile.TemporaryDirectory(dir=sys.argv[2]) as folder:
        home = open_home(Settings(data_dir=Path(folder), demo=True), 0.05)
        gc.freeze()  # as the command line does
        begun = time.perf_counter()
        taking.take(home, log_files.receive(home, read(home), "charges.csv", content), whole=True)
        print(time.perf_counter() - begun, peak_mb())


if __name__ == "__main__":
    main()
