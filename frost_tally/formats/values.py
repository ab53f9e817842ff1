"""A text as a value, one function for each kind of value that people type or files bring; each has bounds, or raises ValueError.

Nothing else in the app turns a text from outside into a number, a day, a moment, a time of day or words.
"""

import math
import re
import unicodedata
from datetime import UTC, date, datetime, time

FIRST, LAST = date(1970, 1, 2), date(2099, 12, 31)
LONGEST = 40
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?", re.ASCII)
_WHOLE = re.compile(r"[+-]?\d{1,18}", re.ASCII)
_CLOCK = re.compile(r"([01]?\d|2[0-3]):([0-5]\d)(:[0-5]\d)?", re.ASCII)


def number(text: str, comma: bool = True) -> float:
    """A finite number: point or, where `comma` says so, comma before the decimals; true minus or hyphen before it."""
    plain = text.strip().replace("−", "-").replace("\u00a0", "")
    plain = plain.replace(",", ".") if comma else plain
    if len(plain) > LONGEST or not _NUMBER.fullmatch(plain) or not math.isfinite(value := float(plain)):
        raise ValueError("not a number")
    return value


def whole(text: str, low: int = 0, high: int = 999_999_999) -> int:
    """A whole number between two, both included."""
    if not _WHOLE.fullmatch(text.strip()) or not low <= (value := int(text)) <= high:
        raise ValueError("not a whole number in bounds")
    return value


def day(text: str, first: date = FIRST, last: date = LAST) -> date:
    """A date, ISO 8601, between two, both included."""
    if not first <= (found := date.fromisoformat(text.strip())) <= last:
        raise ValueError("too far away")
    return found


def moment(text: str) -> datetime:
    """A date with a time, ISO 8601, perhaps without an offset, between 1970 and 2100."""
    found = datetime.fromisoformat(text.strip())
    if not FIRST <= found.date() <= LAST:
        raise ValueError("too far away")
    return found


def aware(text: str) -> datetime:
    """A date with a time and an offset, ISO 8601, between 1970 and 2100, on UTC."""
    found = moment(text)
    if found.tzinfo is None:
        raise ValueError("without an offset")
    return found.astimezone(UTC)


def clock(text: str) -> time:
    """A time of day such as 7:10 or 07:10."""
    if not (found := _CLOCK.fullmatch(text.strip())):
        raise ValueError("not a time of day")
    return time(int(found[1]), int(found[2]))


def words(text: str, longest: int = 60) -> str:
    """A short text in one line, as people write names: no control characters, nothing that turns the direction of reading."""
    plain = text.strip()
    if not 1 <= len(plain) <= longest or any(
        unicodedata.category(each) in ("Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp") for each in plain
    ):
        raise ValueError("not a short text")
    return plain
