"""What went wrong on the command line, in a sentence."""

from pydantic import ValidationError
from pydantic_settings import SettingsError
from sqlalchemy.exc import SQLAlchemyError

from .access.tables import AccessRefused
from .core.errors import Refusal
from .household.whole_file import StoreError
from .serve import CannotStart
from .settings import PREFIX, complaint

DEBUG = f"{PREFIX}DEBUG"


def plainly(problem: Exception) -> str:
    """A problem in a sentence."""
    match problem:
        case StoreError() | CannotStart() | AccessRefused() | Refusal():
            return str(problem)
        case ValidationError() | SettingsError():
            return complaint(problem)
        case SQLAlchemyError() | OSError():
            reason = getattr(problem, "orig", None) or problem
            return f"The data could not be read or written: {reason}. Nothing was changed; `frost-tally doctor` looks it through."
    return f"That was not foreseen: {type(problem).__name__}: {problem}. {DEBUG}=1 shows where."
