"""What all tables share."""

from collections.abc import Mapping
from contextvars import ContextVar
from dataclasses import MISSING
from datetime import UTC, date, datetime, time
from enum import StrEnum
from typing import Any

from sqlalchemy import Boolean, Date, DateTime, Dialect, Double, Integer, String, Time
from sqlalchemy.orm import DeclarativeBase, MappedColumn, mapped_column
from sqlalchemy.types import TypeDecorator, TypeEngine

from ...core.fields import Declared, declared

acting: ContextVar[str] = ContextVar("acting", default="")
"""The name of whoever decides or notes in this request; "" at this computer."""


def by_whom() -> str:
    """Whoever writes a row that says so."""
    return acting.get()


class Moment(TypeDecorator[datetime]):
    """An aware time, stored in UTC."""

    impl = DateTime
    cache_ok = True
    python_type = datetime

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """Base of all tables."""


_TYPES: Mapping[type, type[TypeEngine[Any]]] = {float: Double, int: Integer, bool: Boolean, str: String, time: Time, date: Date}


def kept(kind: type) -> Any:
    """A base of a table with a column for each field of a part; the table's class says in `kept_of` of which."""
    columns: dict[str, Any] = {column: _column(each) for column, each in declared(kind).items()}
    return type(f"Kept{kind.__name__}", (), {"kept_of": kind, **columns})


def _column(each: Declared) -> MappedColumn[Any]:
    default = None if each.default is MISSING else each.default
    plain = default.value if isinstance(default, StrEnum) else default
    kind = (String if issubclass(each.kind, StrEnum) else _TYPES[each.kind])()
    if each.optional and plain is not None:
        kind = kind.evaluates_none()  # that there is none is told, not left out
    if each.default is MISSING:
        return mapped_column(kind, nullable=each.optional)
    return mapped_column(kind, nullable=each.optional, default=plain)
