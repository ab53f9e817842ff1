"""Results that cost a second to work out, kept while nothing that they depend on is changed."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..household.home import Home
from ..household.models import (
    BandRow,
    Base,
    CarRow,
    DriveRow,
    HabitRow,
    HouseholdRow,
    LearntRow,
    MeterRow,
    OutletRow,
    PlaceRow,
    PriceRow,
    SeasonRow,
    TariffRow,
)

Result = TypeVar("Result")
MOST = 48
_kept: OrderedDict[Hashable, object] = OrderedDict()
_lock = Lock()
WHOLE: tuple[type[Base], ...] = (HouseholdRow, PlaceRow, OutletRow, TariffRow, BandRow, SeasonRow, CarRow, HabitRow, LearntRow)
SUMS = ((DriveRow.km, DriveRow.soc_end), (MeterRow.kwh, MeterRow.start_s), (PriceRow.price_per_kwh, PriceRow.start_s))
PASSING = {"revision", "clock"}


class NotYet(RuntimeError):
    """The result takes a second or two to work out, and nobody has asked for it yet."""


def stamp(session: Session) -> Hashable:
    """What a year's results depend on: the home's parts, tariffs, cars and habits whole; drives, meter and prices by their sums."""
    parts = [
        tuple(
            map(str, session.execute(select(*(column for column in kind.__table__.columns if column.name not in PASSING))).all())
        )
        for kind in WHOLE
    ]
    sums = [session.execute(select(func.count(), func.total(value), func.total(other))).one() for value, other in SUMS]
    return tuple(parts), tuple(tuple(each) for each in sums)


def remembered(home: Home, what: Hashable, work: Callable[[], Result], at_once: bool = False) -> Result:
    """The kept result of `what` for the home as it is now, worked out when it is not there. Raises: NotYet, if `at_once`, then."""
    with home.reading() as session:
        key = (str(home.engine.url), stamp(session), what)
    if key not in _kept:
        if at_once:
            raise NotYet
        result = work()
        with _lock:
            _kept[key] = result
            while len(_kept) > MOST:
                _kept.popitem(last=False)
        return result
    return _kept[key]  # type: ignore[return-value]
