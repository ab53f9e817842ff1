"""Files of entries: received, read by columns that are known or chosen, previewed, taken over whole, and taken back."""

import zlib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace

from ...core.errors import Refusal
from ...core.log.kinds import KINDS
from ...formats.log_columns import Choice, own_choice
from ...formats.table import has_comma_decimals, header_of
from ...household.log import names_away
from ...household.pending import change_pending, forget_pending, know_choice, known_choice, pending, put_pending
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from .jobs import Tell
from .read import KIND, NOT_TOLD, Loaded, choice_of, failure_of

AWAY = "{} was put away: its entries stand in the log, and no room reckons with them."


@dataclass(frozen=True, kw_only=True)
class LogPreview:
    """What taking a file of entries over would do, by kind: (added, changed, there already); its bad rows, how many rows it repeats, its
    span of time, and why taking it over failed (None: it did not; "": it ended in the middle, and nobody could say why).
    """

    number: str
    name: str
    header: tuple[str, ...]
    choice: Choice | None
    counts: Mapping[str, tuple[int, int, int]]
    bad: tuple[tuple[int, str, str], ...]
    bad_count: int
    notes: tuple[str, ...]
    repeated: int
    span: tuple[str, str]
    done: bool
    failed: str | None

    @property
    def added(self) -> int:
        """New entries."""
        return sum(each[0] for each in self.counts.values())

    @property
    def changed(self) -> int:
        """Entries that are there and would be other ones."""
        return sum(each[1] for each in self.counts.values())

    @property
    def same(self) -> int:
        """Entries that are there already."""
        return sum(each[2] for each in self.counts.values())


def receive(household: Household, snapshot: Snapshot, name: str, content: bytes) -> str:
    """Keep a file for its preview; returns its number. Raises: Refusal for what is no CSV with a header."""
    if not content:
        raise Refusal("The file is empty: choose another.", "file")
    header = header_of(content)
    known = known_choice(snapshot.log, _named(header))
    own = own_choice(header, snapshot.home.place.zone, has_comma_decimals(content))
    choice = own or (choice_of(known) if known else None)
    choice = None if choice is None else _of_the_only_car(snapshot, choice)
    about = {"name": name[:80] or "the file", "header": list(header), "choice": asdict(choice) if choice else None}
    with household.recording() as session:
        return put_pending(session, KIND, about, zlib.compress(content, 1))


def _of_the_only_car(snapshot: Snapshot, choice: Choice) -> Choice:
    """The same, of the home's car where there is but one and nobody chose: rows that name none are its own."""
    cars = snapshot.home.cars
    return replace(choice, car_id=cars[0].id) if choice.car_id is None and len(cars) == 1 else choice


def _named(header: tuple[str, ...]) -> str:
    return "|".join(each.casefold() for each in header)[:4000]


def choose(household: Household, snapshot: Snapshot, number: str, choice: Choice) -> None:
    """Read a file by other columns, and remember them for its header. Raises: Refusal when it is gone, or a needed column is missing."""
    shape = KINDS.get(choice.kind)
    if shape is None:
        raise Refusal("Choose what is in the file.", "kind")
    for each in shape.columns:
        if each.needed and each.name not in choice.columns:
            raise Refusal("This is needed: choose the column that has it.", each.name)
    choice = _of_the_only_car(snapshot, choice)
    if "car" not in choice.columns and choice.car_id is None:
        raise Refusal("Choose the car.", "car")
    if choice.car_id is not None and choice.car_id not in {each.id for each in snapshot.home.cars}:
        raise Refusal("There is no such car.", "car")
    with household.recording() as session:
        file = pending(session, number, (KIND,))
        if file.done:
            raise Refusal("This file was taken over already.", "kind")
        change_pending(session, number, {"choice": asdict(choice), "counts": None})
        know_choice(session, _named(tuple(map(str, file.about["header"]))), asdict(choice))


def forget(household: Household, number: str) -> None:
    """Away with a file that nobody wants to take over."""
    with household.recording() as session:
        forget_pending(session, number, KIND)


def look(household: Household, number: str, tell: Tell = NOT_TOLD) -> None:
    """Read a whole file and hold it against the log, for its preview. Raises: Refusal."""
    with household.reading() as snapshot:
        file = pending(snapshot.log, number, (KIND,))
        loaded = Loaded(snapshot.log, file.about, zlib.decompress(file.content), tell)
        counts, spans = {}, []
        for kind, each in loaded.tables.items():
            found = each.difference()
            counts[kind] = [found.added, found.changed, found.same]
            spans += [at for at in each.span() if at]
            loaded.twice(found.twice)
        loaded.close()
    with household.recording() as session:
        pending(session, number, (KIND,))
        change_pending(session, number, {**loaded.told(counts), "span": [min(spans), max(spans)] if spans else ["", ""]})


def preview(snapshot: Snapshot, number: str) -> LogPreview:
    """What is known of a received file. Raises: Refusal when it is gone."""
    about = pending(snapshot.log, number, (KIND,)).about
    away = [name for each, name in names_away(snapshot.log).items() if each in about.get("cars", ())]
    return LogPreview(
        number=number,
        name=about["name"],
        header=tuple(about["header"]),
        choice=choice_of(about["choice"]) if about.get("choice") else None,
        counts={kind: (each[0], each[1], each[2]) for kind, each in (about.get("counts") or {}).items()},
        bad=tuple((int(line), str(column), str(reason)) for line, column, reason in about.get("bad", ())),
        bad_count=about.get("bad_count", 0),
        notes=(*about.get("notes", ()), *(AWAY.format(name) for name in away)),
        repeated=about.get("repeated", 0),
        span=tuple(about.get("span", ("", ""))),
        done=bool(about.get("done")),
        failed=failure_of(about),
    )


def looked(snapshot: Snapshot, number: str) -> bool:
    """Whether a file was read for its preview. Raises: Refusal when it is gone."""
    return pending(snapshot.log, number, (KIND,)).about.get("counts") is not None
