"""Hourly prices as others write them: which column is what, per kWh or per MWh, with or without what is added to them.

Only the columns are ours to guess; whoever takes the file sees the guess, changes it, and it is remembered for that header.
"""

import re
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..core.errors import Refusal
from .intervals import PRICE_COLUMNS, STARTS, STEPS, Intervals, read_values
from .moments import ORDERS
from .table import has_comma_decimals, lines_of

PER = {"kWh": 1.0, "MWh": 1e-3, "hundredth": 1e-2}
"""What a price is for: a kilowatt-hour, a megawatt-hour; or hundredths of the money per kilowatt-hour."""
_START_WORDS = ("start", "from", "begin", "time", "date", "hour", "moment")
_PRICE_WORDS = ("price", "spot", "total", "per kwh", "per mwh", "/kwh", "/mwh", "cost", "rate", "amount", "value")
_HUNDREDTH = re.compile(r"(?<![a-z])(ct|cent|cents|øre|öre|ore|pence|p|penni|gr|grosz)\s*(/|per)\s*kwh")
_DAY_FIRST, _MONTH_FIRST = re.compile(r"\d{1,2}[./-]\d{1,2}[./-]\d{4}"), re.compile(r"\d{1,2}/\d{1,2}/\d{4}")
_OF_CARS = (
    "car",
    "soc",
    "trip",
    "charg",
    "odometer",
    "battery",
    "distance",
    "km",
    "energy",
    "consum",
    "usage",
    "session",
    "vehicle",
)
LOWEST, HIGHEST = -5.0, 20.0


@dataclass(frozen=True, kw_only=True)
class PriceColumns:
    """How a file of prices is read: the columns of begin and price (None: not found), what a price is for, how decimals and dates are
    written, on which clock; the share that is added (tax, 0 to 1) and what is added per kWh after it (grid and fees).
    """

    start: int | None
    price: int | None
    per: str = "kWh"
    comma: bool = False
    dates: str = "iso"
    zone: str = "UTC"
    tax: float = 0.0
    added: float = 0.0

    @property
    def whole(self) -> bool:
        """Whether a file can be read by it."""
        return self.start is not None and self.price is not None and self.start != self.price


def guess_prices(content: bytes, zone: str) -> PriceColumns:
    """The columns that a file of prices has, by its header and its first row. Raises: Refusal for what is no table."""
    (_, header), (_, first) = _two(content)
    plain = [re.sub(r"[_\-]+", " ", each.casefold()).strip() for each in header]
    start = next((plain.index(each) for each in plain if each in STARTS), _like(plain, _START_WORDS, set()))
    price = next((i for i, each in enumerate(header) if _bare(each) in PRICE_COLUMNS), None)
    if price is None:
        price = _like(plain, _PRICE_WORDS, set() if start is None else {start})
    title = "" if price is None else plain[price]
    per = "MWh" if "mwh" in title else ("hundredth" if _HUNDREDTH.search(title) else "kWh")
    cell = first[start] if start is not None and start < len(first) else ""
    comma = has_comma_decimals(content)
    return PriceColumns(start=start, price=price, per=per, comma=comma, dates=_order(cell), zone=zone)


def is_our_own(content: bytes) -> bool:
    """Whether a file has our own columns, or close ones, so that nothing has to be chosen."""
    (_, header), _ = _two(content)
    plain = {_bare(each) for each in header}
    return bool(plain & STARTS and plain & PRICE_COLUMNS)


def sounds_like_prices(content: bytes) -> bool:
    """Whether a table has a time, a price and no word of a car: then its rows are prices."""
    (_, header), _ = _two(content)
    text = " ".join(header).casefold()
    how = guess_prices(content, "UTC")
    priced = how.price is not None and any(word in header[how.price].casefold() for word in ("price", "spot", "wh"))
    return how.whole and priced and not any(word in text for word in _OF_CARS)


def read_hourly(content: bytes, how: PriceColumns) -> Intervals:
    """Dated prices by the columns that were chosen, tax and additions included. Raises: Refusal."""
    if how.start is None or how.price is None or not how.whole:
        raise Refusal("Choose the columns of begin and price: they are two.", "price")
    found = read_values(
        content, how.zone, PRICE_COLUMNS, low=LOWEST / PER[how.per], high=HIGHEST / PER[how.per], what="a price", lengths=STEPS,
        places=(how.start, how.price), comma=how.comma, dates=how.dates,
    )  # fmt: skip
    prices = found.value * PER[how.per] * (1.0 + how.tax) + how.added
    if len(prices) and (prices.min() < LOWEST or prices.max() > HIGHEST):
        raise Refusal(
            f"That makes prices from {prices.min():.2f} to {prices.max():.2f} per kWh: look at what they are for.", "per"
        )
    return replace(found, value=np.round(prices, 6))


def stored(how: PriceColumns) -> dict[str, Any]:
    """How it is remembered."""
    return {"prices": vars(how).copy()}


def known(kept: dict[str, Any] | None) -> PriceColumns | None:
    """What was remembered for a header; None where it was read as something else, or never."""
    return PriceColumns(**kept["prices"]) if kept and "prices" in kept else None


def _two(content: bytes) -> tuple[tuple[int, list[str]], tuple[int, list[str]]]:
    lines = lines_of(content)
    first, second = next(lines, None), next(lines, None)
    if first is None or second is None:
        raise Refusal("The file has no rows under its header.", "file")
    return first, second


def _bare(title: str) -> str:
    """A column's name without its unit, in small letters."""
    return title.split("[")[0].split("(")[0].strip().lower()


def _like(plain: list[str], words: tuple[str, ...], taken: set[int]) -> int | None:
    return next((i for word in words for i, each in enumerate(plain) if i not in taken and word in each), None)


def _order(cell: str) -> str:
    """The order of a date as a first row writes it; ambiguous ones with a slash have the month first, others the day."""
    found = _DAY_FIRST.match(cell.strip())
    if found is None:
        return "iso"
    first, second = (int(each) for each in re.findall(r"\d+", found[0])[:2])
    if first > 12 or second > 12:
        return "dmy" if first > 12 else "mdy"
    order = "mdy" if _MONTH_FIRST.match(cell.strip()) else "dmy"
    return order if order in ORDERS else "iso"
