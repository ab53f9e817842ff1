"""A file of entries read into tables of a session: its good rows by kind, its bad ones."""

from collections.abc import Mapping, Sequence
from dataclasses import astuple
from typing import Any

from ...core.log.kinds import KINDS
from ...formats.log_columns import Choice, LogHome
from ...formats.log_csv import Chunk, chunks
from ...formats.table import MOST_BAD, same_moment
from ...household.log import names_ever
from ...household.log_import import Incoming
from ...household.snapshot import LogTables
from .jobs import Tell

KIND = "log"
NOT_TOLD: Tell = lambda share: None  # noqa: E731


def choice_of(kept: Mapping[str, Any]) -> Choice:
    """A choice as it was kept."""
    columns = {str(name): (int(at), str(unit)) for name, (at, unit) in kept["columns"].items()}
    return Choice(**{**kept, "columns": columns})


def failure_of(about: Mapping[str, Any]) -> str | None:
    """Why taking a file over failed (None: it did not; "": it ended in the middle)."""
    return str(about.get("failed", "")) if about.get("begun") and not about.get("done") else None


class Loaded:
    """A file's good rows in tables of a session, by kind, and its bad ones."""

    def __init__(self, session: LogTables, about: Mapping[str, Any], content: bytes, tell: Tell) -> None:
        choice, self.notes = choice_of(about["choice"]), list[str]()
        self.tables: dict[str, Incoming] = {}
        self.cars, self.bad = set[int](), list[list[Any]]()
        self.bad_count = self.repeated = 0
        here = LogHome(
            cars={name.casefold(): number for number, name in names_ever(session, "car").items()},
            outlets={name.casefold(): number for number, name in names_ever(session, "outlet").items()},
        )
        for chunk in chunks(content, choice, here, self.notes):
            self._take(session, chunk, choice)
            tell(0.9 * chunk.share)
        for each in self.tables.values():
            each.index()

    def _take(self, session: LogTables, chunk: Chunk, choice: Choice) -> None:
        for kind, rows in chunk.rows:
            self.cars.update(rows.cars)
            if not rows.lines:
                continue
            if kind not in self.tables:
                prefix = "" if choice.kind else f"{kind}."
                names = [each.name for each in KINDS[kind].columns if prefix + each.name in choice.columns]
                self.tables[kind] = Incoming(session, kind, names)
            self.tables[kind].load(rows.lines, rows.cars, rows.columns, rows.sources, rows.assumed)
        self.bad_count += len(chunk.bad)
        if len(self.bad) < MOST_BAD:
            self.bad += [[each.line, each.column, each.reason] for each in chunk.bad]

    def twice(self, found: tuple[tuple[int, int, bool], ...]) -> None:
        """Rows of one moment twice: alike ones are left out, others are bad."""
        for line, first, alike in found:
            if not alike:
                self.bad_count += 1
                self.bad.append(list(astuple(same_moment(line, first))))
            else:
                self.repeated += 1

    def told(self, counts: Mapping[str, Sequence[int]]) -> dict[str, Any]:
        """What a preview says of the file."""
        bad = {"bad": self.bad[:MOST_BAD], "bad_count": self.bad_count, "notes": self.notes, "repeated": self.repeated}
        bad["cars"] = sorted(self.cars)
        return {"counts": dict(counts), **bad}

    def close(self) -> None:
        """Away with the tables."""
        for each in self.tables.values():
            each.close()
