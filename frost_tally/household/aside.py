"""Values that could not be, put aside when the tables were made to hold their sense (`household.strict`)."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from .models import AsideRow
from .reader import as_value


@dataclass(frozen=True, kw_only=True)
class Aside:
    """One of them: its place ("car.soh"), its row as it was, the value, what stands there instead (None: nothing), whether its row went."""

    id: int
    at: datetime
    place: str
    row: Mapping[str, Any]
    value: str
    became: str | None
    gone: bool


def put_aside(session: Session) -> tuple[Aside, ...]:
    """All of them, in order."""
    return tuple(as_value(Aside, row) for row in session.scalars(select(AsideRow).order_by(AsideRow.id)))


def settle(session: Session, number: int) -> None:
    """Somebody looked at one and needs it no more. Raises: Refusal when it is gone."""
    row = session.get(AsideRow, number)
    if row is None:
        raise Refusal("That was settled already.")
    session.delete(row)
