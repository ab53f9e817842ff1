"""A file of entries taken over whole, in one transaction, or not at all; and those that were taken, or failed."""

import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from ...core.errors import Refusal
from ...household import log_import
from ...household.pending import Pending, change_pending, failed_lately, note_failure, pending, taken_lately
from ...household.snapshot import LogTables, Snapshot
from ...household.unit_of_work import Household
from .jobs import Tell
from .read import KIND, NOT_TOLD, Loaded, failure_of


def take(household: Household, number: str, tell: Tell = NOT_TOLD, whole: bool = False) -> int:
    """Take a file's good rows over, all in one transaction; returns the number to undo it by. Its preview then says what was done.

    Raises: Refusal when it is gone or was taken; BadRows for a file that must be taken `whole`: nothing is changed then.
    """
    staged: list[Loaded] = []

    def stage(session: LogTables) -> None:
        """Read the whole file into tables of its own, while others write."""
        file = _untaken(session, number)
        staged.append(Loaded(session, file.about, zlib.decompress(file.content), tell))
        for each in staged[0].tables.values():
            staged[0].twice(each.drop_twice())

    with household.deciding("", stage=stage) as session:
        session.words = f"“{_untaken(session, number).about['name']}” taken over"
        loaded = staged[0]
        if whole and loaded.bad_count:
            raise BadRows(tuple((int(line), str(column), str(reason)) for line, column, reason in loaded.bad), loaded.bad_count)
        done, counts = [], {}
        for kind, each in loaded.tables.items():
            part = each.take(datetime.now(UTC))
            added, changed = part["added"][1] - part["added"][0] + 1, len(part["was"])
            counts[kind] = [added, changed, each.count() - added - changed]
            done.append(part)
        loaded.close()
        tell(1.0)
        change_pending(session, number, {**loaded.told(counts), "done": True, "begun": False}, log_import.packed(done))
        session.file_taken(number)
    return session.number


def take_beside(household: Household, number: str, say: Callable[[Exception], str], tell: Tell = NOT_TOLD) -> int:
    """Take a file over beside the pages; when that fails, what `say` makes of it is written down for them. Raises as `take`."""
    with household.recording() as session:
        _untaken(session, number)
        change_pending(session, number, {"begun": True, "failed": ""})
    try:
        return take(household, number, tell)
    except Exception as problem:
        note_failure(household.recording, number, say(problem))
        raise


def _untaken(session: LogTables, number: str) -> Pending:
    """A file that waits. Raises: Refusal when it is gone or was taken."""
    file = pending(session, number, (KIND,))
    if file.done:
        raise Refusal("This file was taken over already.")
    return file


class BadRows(RuntimeError):
    """Rows that cannot be used, in a file that must be taken whole: (line, column, reason) of the first, and how many."""

    def __init__(self, bad: tuple[tuple[int, str, str], ...], count: int) -> None:
        super().__init__()
        self.bad, self.count = bad, count


@dataclass(frozen=True)
class TakenFile:
    """A file that was taken over: its number and name, when it was received, how many entries it brought, and the number to undo it by."""

    number: str
    name: str
    made_at: datetime
    entries: int
    undo: int


def taken_files(snapshot: Snapshot) -> tuple[TakenFile, ...]:
    """The files that were taken over lately and can still be taken back as a whole, the newest first."""
    found = []
    for file, undo in taken_lately(snapshot.log, KIND):
        counts: Mapping[str, Sequence[int]] = file.about.get("counts") or {}
        entries = sum(each[0] + each[1] for each in counts.values())
        found.append(TakenFile(file.id, str(file.about["name"]), file.made_at, entries, undo))
    return tuple(found)


def failed_files(snapshot: Snapshot) -> tuple[tuple[str, str, str], ...]:
    """Files whose taking over came to nothing: number, name, why ("": it ended in the middle), the newest first."""
    return tuple((each.id, str(each.about["name"]), failure_of(each.about) or "") for each in failed_lately(snapshot.log, KIND))
