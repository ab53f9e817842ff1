"""Which column of a file of entries is what: in our own files by their header, in other programs' as somebody chose."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..core.log.kinds import KINDS, Column
from ..core.measures import QUANTITIES, Unit, units_of

FILE_UNITS: Mapping[str, Mapping[str, Unit]] = {
    **{quantity: {unit.label: unit for unit in units_of(quantity)} for quantity in QUANTITIES}, "money": {"money": Unit("money", 2)}
}  # fmt: skip
"""Units that a column of a file may have, by quantity, ours first."""
COMMON = ("kind", "car", "source", "assumed")


@dataclass(frozen=True, kw_only=True)
class Choice:
    """How a file is read: its kind, for each of our columns the file's column and its unit, its decimals, dates, clock and car.

    `columns` has our names (and "car", "kind", "source", "assumed"); a `kind` of "" stands for one in each row.
    """

    kind: str
    columns: Mapping[str, tuple[int, str]]
    comma: bool = False
    dates: str = "iso"
    zone: str = "UTC"
    car_id: int | None = None


@dataclass(frozen=True, kw_only=True)
class LogHome:
    """What a reader needs of the home: its cars and outlets by name, in small letters."""

    cars: Mapping[str, int]
    outlets: Mapping[str, int]


def own_choice(header: tuple[str, ...], zone: str, comma: bool = False) -> Choice | None:
    """How a file with our own header is read, with a `comma` before decimals or without; None for another header."""
    plain = [each.casefold() for each in header]
    common = {name: (plain.index(name), "") for name in COMMON if name in plain}
    if "kind" in common:
        columns = {
            f"{kind.key}.{each.name}": at for kind in KINDS.values() for each in kind.columns if (at := _found(each, plain))
        }
        kinds = {name.split(".")[0] for name in columns}
        return Choice(kind="", columns=common | columns, zone=zone, comma=comma) if kinds else None
    for kind in KINDS.values():
        columns = {each.name: at for each in kind.columns if (at := _found(each, plain))}
        if kind.at in columns and all(each.name in columns for each in kind.columns if each.needed):
            known = len(columns) + len(common)
            if known == len([each for each in plain if each]):
                return Choice(kind=kind.key, columns=common | columns, zone=zone, comma=comma)
    return None


def _found(column: Column, plain: list[str]) -> tuple[int, str] | None:
    """Where a column is under its own name, in any unit that its quantity has."""
    units = FILE_UNITS.get(column.quantity, {"": Unit("")})
    for unit in units:
        title = f"{column.file_name} [{unit}]" if unit else column.title
        if title.casefold() in plain:
            return plain.index(title.casefold()), unit
    return (plain.index(column.file_name), next(iter(units))) if column.file_name in plain else None
