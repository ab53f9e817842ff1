"""Files that were taken over: taken back, and over again, by what kind of data they brought."""

from sqlalchemy.orm import Session

from ..core.errors import Refusal
from . import intervals, log_import
from .models import PendingRow


def turn(session: Session, number: str) -> None:
    """Take a file over, or back when it was taken. Raises: Refusal when it is gone, or what it brought was changed since."""
    row = session.get(PendingRow, number)
    if row is None:
        raise Refusal("This file is no longer here: choose it again.", "file")
    if row.kind == "log":
        log_import.turn(session, row)
    else:
        intervals.turn(session, number)
