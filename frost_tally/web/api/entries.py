"""Entries of the log as JSON, in and out: from the one list of kinds. Units in the names, levels 0 to 1."""

from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, WithJsonSchema, create_model

from ...core.log.kinds import CHOICE, KINDS, MOMENT, OUTLET, TEXT, YES_NO, Column, Entry, Kind
from ...formats import values
from .answers import Answer, Moment

ADDRESSES: Mapping[str, str] = {key: "sessions" if key == "charge" else f"{key.replace('_', '-')}s" for key in KINDS}
UNITS = {"distance": "_km", "pressure": "_kpa", "fine_voltage": "_v"}
"""What stands behind the name of a column that is called by its kind in files, where that says no unit."""


def _aware(told: object) -> datetime:
    if not isinstance(told, str):
        raise ValueError("it is a text, such as 2027-01-14T18:30:00+01:00")
    return values.aware(told)


def _words(told: object) -> str:
    if not isinstance(told, str):
        raise ValueError("it is a text")
    return values.words(told, 200) if told.strip() else ""


When = Annotated[datetime, BeforeValidator(_aware), WithJsonSchema({"type": "string", "format": "date-time"})]
Words = Annotated[str, BeforeValidator(_words)]


def name_of(column: Column) -> str:
    """The name of a column in JSON: `value` is called by what it is, with its unit."""
    return column.name if column.name != "value" else f"{column.file_name}{UNITS.get(column.quantity, '')}"


def _kind_of(column: Column, coming: bool) -> Any:
    if column.quantity == MOMENT:
        return When if coming else Moment
    if column.quantity == CHOICE:
        return Literal[column.options]
    if column.quantity == OUTLET:
        return Annotated[int, Field(ge=1, le=999_999_999)]
    if column.quantity == TEXT:
        return Annotated[Words, Field(max_length=int(column.high))] if coming else str
    if column.quantity == YES_NO:
        return bool
    return Annotated[float, Field(ge=column.low, le=column.high, allow_inf_nan=False)] if coming else float


def _model(kind: Kind, name: str, base: type[BaseModel], coming: bool) -> type[BaseModel]:
    fields: dict[str, Any] = {}
    for column in kind.columns:
        of = _kind_of(column, coming)
        fields[name_of(column)] = (of, ...) if column.needed else (of | None if column.empty is None else of, column.empty)
    return create_model(name, __base__=base, **fields)


class _Coming(BaseModel):
    """An entry as it is sent."""

    model_config = ConfigDict(extra="forbid")
    car_id: int = Field(ge=1, le=999_999_999)


class _Noted(Answer):
    """An entry of the log; `assumed` are the values that nobody read."""

    id: int
    car_id: int
    source: str
    assumed: tuple[str, ...]


def _title(kind: str) -> str:
    return "".join(part.capitalize() for part in kind.split("_"))


def _page(noted: type[BaseModel]) -> dict[str, Any]:
    return {"entries": (tuple[noted, ...], ...), "after": (str | None, ...)}  # type: ignore[valid-type]


COMING = {key: _model(kind, f"{_title(key)}In", _Coming, True) for key, kind in KINDS.items()}
NOTED = {key: _model(kind, _title(key), _Noted, False) for key, kind in KINDS.items()}
PAGES = {key: create_model(f"{_title(key)}Page", __base__=Answer, **_page(each)) for key, each in NOTED.items()}
"""Some entries, the latest first, and after which the next page begins (null at the end)."""


def entry_from(kind: str, told: BaseModel) -> Entry:
    """The entry that somebody sent."""
    sent = told.model_dump()
    return Entry(
        kind=kind, car_id=sent["car_id"], values={each.name: sent[name_of(each)] for each in KINDS[kind].columns}, source="script"
    )


def as_noted(entry: Entry) -> dict[str, object]:
    """An entry, for its model."""
    named = {name_of(each): entry.values[each.name] for each in KINDS[entry.kind].columns}
    assumed = tuple(name_of(each) for each in KINDS[entry.kind].columns if each.name in entry.assumed)
    return {"id": entry.number, "car_id": entry.car_id, "source": entry.source, "assumed": assumed, **named}
