"""A copy every night by itself, and which of them stay."""

import re
from collections.abc import Iterable
from datetime import UTC, date, datetime
from pathlib import Path

from .store import backup

NIGHTS, WEEKS, MONTHS = 7, 4, 12
"""How many stay: of the latest nights each, and the last one of so many weeks and months (common practice)."""
HOW, LOOK_S = "-nightly", 900.0
_NAME = re.compile(rf".*-(\d{{8}})T\d+{HOW}\.db")


def staying(nights: Iterable[date]) -> set[date]:
    """Which nights' copies stay: the latest seven, and the latest of each of the last four weeks and twelve months that have one."""
    latest = sorted(set(nights), reverse=True)
    weeks = {each.isocalendar()[:2]: each for each in reversed(latest)}
    months = {(each.year, each.month): each for each in reversed(latest)}
    return {*latest[:NIGHTS], *sorted(weeks.values(), reverse=True)[:WEEKS], *sorted(months.values(), reverse=True)[:MONTHS]}


def nightly_copies(database: Path, backups: Path) -> dict[Path, date]:
    """The copies that were made by themselves, and of which night (UTC) each is."""
    found = ((each, _NAME.fullmatch(each.name)) for each in sorted(backups.glob(f"{database.stem}-*{HOW}.db")))
    return {path: datetime.strptime(told[1], "%Y%m%d").replace(tzinfo=UTC).date() for path, told in found if told}


def copy_of_the_night(database: Path, backups: Path, today: date | None = None) -> Path | None:
    """Copy the data when it was not copied on this day (UTC; None: today) yet, and let go what need not stay. Raises: StoreError."""
    today = today or datetime.now(UTC).date()
    if today in nightly_copies(database, backups).values():
        return None
    made = backup(database, backups, HOW)
    there = nightly_copies(database, backups)
    stay = staying(there.values())
    for path, night in there.items():
        if night not in stay:
            path.unlink(missing_ok=True)
    return made
