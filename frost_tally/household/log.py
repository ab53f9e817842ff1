"""The log in the store: one list over the tables of facts, page by page, and its entries read and written."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, Connection, Select, and_, event, false, func, literal, or_, select, true, union_all
from sqlalchemy.orm import Session

from ..core.charge.saved_plan import SavedPlan
from ..core.log.kinds import KINDS, OUTLET, TEXT, Entry
from .models import CapacityRow, CarRow, ChargeRow, DriveRow, EventRow, OutletRow, ReadingRow

TIME, SIZE = "time", "size"


@dataclass(frozen=True)
class Stored:
    """Where entries of a kind are: their table, and what all of them have in it."""

    row: Any
    fixed: Mapping[str, str] = field(default_factory=dict)

    def where(self) -> ColumnElement[bool]:
        """What a row of the table must be to be of this kind."""
        if self.row is EventRow and not self.fixed:
            return EventRow.kind != "season"
        return and_(true(), *(getattr(self.row, name) == value for name, value in self.fixed.items()))

    def column(self, name: str) -> Any:
        """The table's column of an entry's value."""
        return getattr(self.row, column_name(name))


STORED: Mapping[str, Stored] = {
    "drive": Stored(DriveRow),
    "charge": Stored(ChargeRow),
    "level": Stored(ReadingRow, {"kind": "level", "unit": "1"}),
    "odometer": Stored(ReadingRow, {"kind": "odometer", "unit": "km"}),
    "tyre": Stored(ReadingRow, {"kind": "tyre", "unit": "kPa"}),
    "twelve_volt": Stored(ReadingRow, {"kind": "twelve_volt", "unit": "V"}),
    "capacity_test": Stored(CapacityRow),
    "season": Stored(EventRow, {"kind": "season"}),
    "event": Stored(EventRow),
}

TABLES = tuple(dict.fromkeys(str(each.row.__tablename__) for each in STORED.values()))
"""The tables that entries stand in."""


def column_name(name: str) -> str:
    """The name of a table's column: that of the entry's value, but for an outlet, which is referred to by number."""
    return "outlet_id" if name == "outlet" else name


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """Which entries: of a car, of a kind, from and before a time, with some words in them; None or "" for all."""

    car_id: int | None = None
    kind: str = ""
    since: datetime | None = None
    before: datetime | None = None
    text: str = ""
    sort: str = TIME
    oldest_first: bool = False


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place in the list: the time (or size) of an entry, its kind and its number."""

    key: datetime | float
    kind: str
    number: int


def _of_kind(kind: str, wanted: Wanted) -> tuple[Any, list[ColumnElement[bool]]]:
    """The key of the order, and the conditions for entries of one kind."""
    stored, shape = STORED[kind], KINDS[kind]
    at = stored.column(shape.at)
    conditions = [stored.where()]
    if wanted.car_id is not None:
        conditions.append(stored.row.car_id == wanted.car_id)
    if wanted.since is not None:
        conditions.append(at >= wanted.since)
    if wanted.before is not None:
        conditions.append(at < wanted.before)
    if wanted.text:
        conditions.append(_says(kind, wanted.text))
    if wanted.sort == SIZE:
        size = stored.column(shape.main) if shape.main else None
        return (size, [*conditions, size.is_not(None)]) if size is not None else (at, [false()])
    return at, conditions


def _says(kind: str, text: str) -> ColumnElement[bool]:
    """Whether an entry has some words in one of its texts, or in the name of its outlet."""
    stored, like = STORED[kind], "%" + text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    found: list[ColumnElement[bool]] = [
        stored.column(each.name).like(like, escape="\\") for each in KINDS[kind].columns if each.quantity == TEXT
    ]
    if any(each.quantity == OUTLET for each in KINDS[kind].columns):
        found.append(stored.row.outlet_id.in_(select(OutletRow.id).where(OutletRow.name.like(like, escape="\\"))))
    return or_(false(), *found)


def _kinds(wanted: Wanted) -> Sequence[str]:
    return sorted(KINDS) if not wanted.kind else [wanted.kind]


def _beyond(place: Place, kind: str, key: Any, number: Any, oldest_first: bool) -> ColumnElement[bool]:
    """What comes after a place in the list, among entries of one kind."""
    further: ColumnElement[bool] = key > place.key if oldest_first else key < place.key
    if kind < place.kind:
        return further
    if kind > place.kind:
        return or_(further, key == place.key)
    return or_(further, and_(key == place.key, number > place.number if oldest_first else number < place.number))


def page(session: Session, wanted: Wanted, after: Place | None, most: int) -> list[tuple[Place, Entry]]:
    """The next entries of the list after a place, found by the indexes of time: as quick at the end of ten years as at their beginning."""
    parts: list[Select[Any]] = []
    for kind in _kinds(wanted):
        row = STORED[kind].row
        key, conditions = _of_kind(kind, wanted)
        if after is not None:
            conditions.append(_beyond(after, kind, key, row.id, wanted.oldest_first))
        order = (key.asc(), row.id.asc()) if wanted.oldest_first else (key.desc(), row.id.desc())
        first = select(key.label("key"), literal(kind).label("kind"), row.id.label("number")).where(*conditions)
        parts.append(select(first.order_by(*order).limit(most).subquery()))
    known = union_all(*parts).subquery()
    at, row_id = known.c.key, known.c.number
    listed = (at.asc(), known.c.kind, row_id.asc()) if wanted.oldest_first else (at.desc(), known.c.kind, row_id.desc())
    ordered = session.execute(select(known).order_by(*listed).limit(most))
    found = [Place(key=key, kind=kind, number=number) for key, kind, number in ordered]
    read = read_entries(session, ((each.kind, each.number) for each in found))
    return [(each, read[each.kind, each.number]) for each in found]


def count(session: Session, wanted: Wanted) -> dict[str, int]:
    """How many entries of each kind there are."""
    parts = []
    for kind in _kinds(wanted):
        _, conditions = _of_kind(kind, wanted)
        parts.append(select(literal(kind), func.count()).select_from(STORED[kind].row).where(*conditions))
    return {kind: number for kind, number in session.execute(union_all(*parts)) if number}


def read_entries(session: Session, which: Iterable[tuple[str, int]]) -> dict[tuple[str, int], Entry]:
    """Entries by kind and number; those that are gone are left out."""
    numbers: dict[str, list[int]] = {}
    for kind, number in which:
        numbers.setdefault(kind, []).append(number)
    found = {}
    for kind, of_kind in numbers.items():
        row = STORED[kind].row
        for each in session.scalars(select(row).where(row.id.in_(of_kind), STORED[kind].where())):
            found[kind, each.id] = entry_of(kind, each)
    return found


def entry_of(kind: str, row: Any) -> Entry:
    """A row as an entry."""
    return Entry(
        kind=kind,
        car_id=row.car_id,
        values={each.name: getattr(row, column_name(each.name)) for each in KINDS[kind].columns},
        number=row.id,
        assumed=frozenset(row.assumed),
        source=row.source,
        noted_by=row.noted_by,
        sure=frozenset(getattr(row, "sure", ())),
    )


def write_entry(session: Session, entry: Entry, now: datetime) -> int:
    """Write an entry: a new one without a number, else over what it was; returns its number."""
    stored = STORED[entry.kind]
    row = session.get_one(stored.row, entry.number) if entry.number else stored.row(**stored.fixed)
    values = {column_name(name): value for name, value in entry.values.items()}
    more: dict[str, Any] = {"car_id": entry.car_id, "source": entry.source, "assumed": sorted(entry.assumed)}
    if hasattr(stored.row, "sure"):
        more["sure"] = sorted(entry.sure)
    if stored.row is DriveRow and not entry.number:
        more["noted_at"] = now
    for name, value in (values | more).items():
        if getattr(row, name) != value:
            setattr(row, name, value)
    session.add(row)
    session.flush()
    return int(row.id)


def remove_entry(session: Session, kind: str, number: int) -> None:
    """Take an entry away."""
    session.delete(session.get_one(STORED[kind].row, number))


def link_to_plan(session: Session, number: int, plan: SavedPlan) -> None:
    """Let a drive be the one of a plan: it set out as warm as that says."""
    row = session.get_one(DriveRow, number)
    row.plan_id, row.start_pack_c, row.start_cabin_c = plan.id, plan.start_pack_c, plan.start_cabin_c
    row.assumed = sorted({*row.assumed, "start_pack_c", "start_cabin_c"})


def drives_home_between(session: Session, car_id: int, after: datetime, until: datetime) -> list[Entry]:
    """The drives of a car that ended in a span."""
    ended = func.coalesce(DriveRow.home_at, DriveRow.left_at)
    rows = session.scalars(select(DriveRow).where(DriveRow.car_id == car_id, ended > after, ended <= until)).all()
    return [entry_of("drive", each) for each in rows]


def names_ever(session: Session, kind: str) -> dict[int, str]:
    """The names of all cars or outlets by number, those that were put away first: what was noted of them stays theirs."""
    row: Any = {"car": CarRow, "outlet": OutletRow}[kind]
    found = session.execute(select(row.id, row.name).order_by(row.withdrawn.desc(), row.id))
    return {each.id: each.name for each in found}


def names_away(session: Session) -> dict[int, str]:
    """The names of the cars that were put away, by number."""
    found = session.execute(select(CarRow.id, CarRow.name).where(CarRow.withdrawn).order_by(CarRow.id))
    return {each.id: each.name for each in found}


def season_done(session: Session, car_id: int) -> list[tuple[datetime, str, str, int]]:
    """What was done of the season's list: when, its key, by whom, the entry's number; the earliest first."""
    of_list = (EventRow.car_id == car_id, EventRow.kind == "season", EventRow.item != "")
    wanted = select(EventRow.at, EventRow.item, EventRow.who, EventRow.id)
    found = session.execute(wanted.where(*of_list).order_by(EventRow.at))
    return [(at, item, who, number) for at, item, who, number in found]


def _kind_of(row: Any) -> str:
    """The kind of entry that a row is."""
    return next(
        kind
        for kind, stored in STORED.items()
        if isinstance(row, stored.row)
        and all(getattr(row, name) == value for name, value in stored.fixed.items())
        and (kind != "event" or row.kind != "season")
    )


def _alone(_mapper: object, connection: Connection, row: Any) -> None:
    """Two entries that could not be told apart in a file are kept a second apart: no file then loses one of them."""
    kind = _kind_of(row)
    shape, stored = KINDS[kind], STORED[kind]
    same = [stored.column(name) == getattr(row, column_name(name)) for name in shape.same]
    at: datetime = getattr(row, shape.at)
    like = select(stored.row.id).where(stored.where(), stored.row.car_id == row.car_id, *same)
    while connection.execute(like.where(stored.column(shape.at) == at)).first():
        at += timedelta(seconds=1)
    setattr(row, shape.at, at)


for _row in {stored.row for stored in STORED.values()}:
    event.listen(_row, "before_insert", _alone)
