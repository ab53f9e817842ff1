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
_GROUPS = re.compile(r"[+-]?\d{1,3}(?:([ ’',.])\d{3})(?:\1\d{3})*(?=\D|$)", re.ASCII)
_IDENTITY = re.compile(r"[\w.-]{1,36}", re.ASCII)
_TYPED_CLOCK = re.compile(r"(\d{1,2})(?:[:.h]?([0-5]\d))?\s*(?:([ap])\.?\s?m\.?|h|o’clock)?", re.ASCII | re.IGNORECASE)
_ATOM, _LABEL = r"[\w!#$%&'*+/=?^`{|}~-]+", r"[a-z\d]([a-z\d-]{0,61}[a-z\d])?"
_EMAIL = re.compile(rf"{_ATOM}(\.{_ATOM})*@{_LABEL}(\.{_LABEL})*", re.ASCII | re.IGNORECASE)
_CLOCK = re.compile(r"([01]?\d|2[0-3]):([0-5]\d)(:[0-5]\d)?", re.ASCII)


def number(text: str) -> float:
    """A finite number with a point before its decimals; true minus or hyphen before it."""
    plain = text.strip().replace("−", "-").replace("\u00a0", "")
    if len(plain) > LONGEST or not _NUMBER.fullmatch(plain) or not math.isfinite(value := float(plain)):
        raise ValueError("not a number")
    return value


def typed_number(text: str, decimal: str = ".", fine: bool = False) -> float:
    """A number as people type it: thousands in groups, point or comma before the decimals; `decimal` is their own mark.

    A mark that stands once, before three digits, may part thousands or decimals: "1,150" is 1150 for somebody who writes 1.15. Their
    own mark parts decimals where three of them are usual (`fine`), or after a nought; elsewhere nobody knows, so it is not a number.

    >>> typed_number("1,150"), typed_number("1,15"), typed_number("1.150,5"), typed_number("1 150")
    (1150.0, 1.15, 1150.5, 1150.0)
    """
    plain = re.sub(r"[\u00a0\u2009\u202f]", " ", text.strip()).replace("−", "-")
    groups = _GROUPS.match(plain)
    mark = groups[1] if groups else ""
    rest = plain[groups.end() :] if groups else plain
    if groups and mark in ",." and not rest and groups[0].count(mark) == 1:
        if groups[0].lstrip("+-").startswith("0") or (mark == decimal and fine):
            groups, rest = None, plain
        elif mark == decimal or decimal == ",":
            raise ValueError("thousands or decimals?")
    if groups and (not rest or (rest[0] in ",." and rest[0] != mark)):
        plain = re.sub(r"[ ’',.]", "", groups[0]) + rest
    return number(plain.replace(",", "."))


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


def typed_clock(text: str) -> time:
    """A time of day as people type it: 7:10, 07.10, 0710, 7, 10 pm, 10:30 p.m."""
    if not (found := _TYPED_CLOCK.fullmatch(text.strip().replace("\u00a0", " "))):
        raise ValueError("not a time of day")
    hour, half = int(found[1]), (found[3] or "").lower()
    if half and not 1 <= hour <= 12:
        raise ValueError("no such hour in half a day")
    return time(hour % 12 + (12 if half == "p" else 0) if half else hour, int(found[2] or 0))


def email(text: str) -> str:
    """An address of e-mail, name@place, in ASCII. Source: RFC 5321, 4.1.2 without quoted names and addresses in numbers."""
    plain = text.strip()
    if len(plain) > 254 or not _EMAIL.fullmatch(plain) or len(plain.partition("@")[0]) > 64:
        raise ValueError("not an address of e-mail")
    return plain


def identity(text: str) -> str:
    """A name that stands in addresses: letters, digits, and - _ . between. Source: OCPP 2.0.1, part 4, 3.1.1, narrowed."""
    if not _IDENTITY.fullmatch(plain := text.strip()) or not plain.strip("."):
        raise ValueError("not a name for addresses")
    return plain


def words(text: str, longest: int = 60) -> str:
    """A short text in one line, as people write names: no control characters, nothing that turns the direction of reading."""
    plain = text.strip()
    if not 1 <= len(plain) <= longest or any(
        unicodedata.category(each) in ("Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp") for each in plain
    ):
        raise ValueError("not a short text")
    return plain
