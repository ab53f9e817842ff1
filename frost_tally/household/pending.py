"""Files that were shown in a preview and wait to be taken over, and how somebody read a foreign one."""

import secrets
from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from .models import HeaderRow, PendingRow, UndoRow
from .reader import as_value

KEPT_FOR = timedelta(days=30)


@dataclass(frozen=True, kw_only=True)
class Pending:
    """A file that waits, or was taken over: its number, when it came, its kind, what is known of it, and its content."""

    id: str
    made_at: datetime
    kind: str
    about: Mapping[str, Any]
    content: bytes

    @property
    def done(self) -> bool:
        """Whether it was taken over."""
        return bool(self.about.get("done"))


def pending(session: Session, number: str, kinds: tuple[str, ...] = ()) -> Pending:
    """A file that waits, of some kinds (none: any). Raises: Refusal when it is gone."""
    row = session.get(PendingRow, number)
    if row is None or (kinds and row.kind not in kinds):
        raise Refusal("This file is no longer here: choose it again.", "file")
    return as_value(Pending, row)


def put_pending(session: Session, kind: str, about: Mapping[str, Any], content: bytes) -> str:
    """Keep a file for its preview; returns its number. What nobody wanted for a month is gone."""
    session.execute(delete(PendingRow).where(PendingRow.made_at < datetime.now(UTC) - KEPT_FOR))
    row = PendingRow(id=secrets.token_urlsafe(9), made_at=datetime.now(UTC), kind=kind, about=dict(about), content=content)
    session.add(row)
    return row.id


def change_pending(session: Session, number: str, about: Mapping[str, Any], content: bytes | None = None) -> None:
    """Write down more of what is known of a file, and another content when given."""
    row = session.get_one(PendingRow, number)
    row.about = {**row.about, **about}
    if content is not None:
        row.content = content


def forget_pending(session: Session, number: str, kind: str) -> None:
    """Away with a file that nobody wants to take over."""
    row = session.get(PendingRow, number)
    if row is not None and row.kind == kind and not row.about.get("done"):
        session.delete(row)


def taken_lately(session: Session, kind: str) -> list[tuple[Pending, int]]:
    """Files of a kind that were taken over lately, each with the number to undo it by, the newest first."""
    undo: dict[str, int] = {}
    for row in session.scalars(select(UndoRow).where(UndoRow.takes_back.is_(False))):
        undo |= {str(image["file"]): row.id for image in row.before if "file" in image}
    columns = (PendingRow.id, PendingRow.made_at, PendingRow.kind, PendingRow.about)
    found = session.execute(select(*columns).where(PendingRow.kind == kind).order_by(PendingRow.made_at.desc()))
    made = (Pending(id=number, made_at=at, kind=kind, about=about, content=b"") for number, at, kind, about in found)
    return [(each, undo[each.id]) for each in made if each.done and each.id in undo]


def failed_lately(session: Session, kind: str) -> list[Pending]:
    """Files of a kind whose taking over was begun and came to nothing, the newest first."""
    columns = (PendingRow.id, PendingRow.made_at, PendingRow.kind, PendingRow.about)
    found = session.execute(select(*columns).where(PendingRow.kind == kind).order_by(PendingRow.made_at.desc()))
    made = (Pending(id=number, made_at=at, kind=kind, about=about, content=b"") for number, at, kind, about in found)
    return [each for each in made if each.about.get("begun") and not each.done]


def note_failure(recording: Callable[[], AbstractContextManager[Session]], number: str, words: str) -> None:
    """Write down why taking a file over came to nothing; silent where it is gone, or the store itself is what fails."""
    with suppress(Refusal, DBAPIError), recording() as session:
        if not pending(session, number).done:
            change_pending(session, number, {"failed": words})


def known_choice(session: Session, header: str) -> dict[str, Any] | None:
    """How somebody read a file with this header."""
    row = session.get(HeaderRow, header)
    return None if row is None else dict(row.choice)


def know_choice(session: Session, header: str, choice: Mapping[str, Any]) -> None:
    """Remember how files with a header are read."""
    row = session.get(HeaderRow, header) or HeaderRow(header=header)
    row.choice = dict(choice)
    session.add(row)
