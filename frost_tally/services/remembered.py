"""Results kept while nothing that they depend on is changed; what several ask for at the same time is worked out once.

What a page shows is kept until anything is written (`once`); a year's results, which take a second or two, for as long as what they
depend on stands, and they are worked out by a thread of their own, so that they never hold up a page (`remembered`).
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from datetime import UTC, datetime
from threading import Lock
from typing import Any, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..household.home import Home
from ..household.models import (
    BandRow,
    Base,
    CarRow,
    ChargeRow,
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
    WeatherRow,
)

Result = TypeVar("Result")
LONG_S = 60.0


class NotYet(RuntimeError):
    """The result takes a second or two to work out: it is being worked on."""


class _Memory:
    """The latest results by key, as futures: whoever asks first works it out, or has it worked out."""

    def __init__(self, most: int) -> None:
        self.most, self._lock = most, Lock()
        self._kept: OrderedDict[Hashable, Future[Any]] = OrderedDict()

    def future(self, key: Hashable, begin: Callable[[Future[Any]], None]) -> Future[Any]:
        """The result of a key to wait for; `begin` is called for one that nobody asked for yet. A failure is not kept."""
        with self._lock:
            found, new = self._kept.get(key), False
            if found is None:
                found, new = Future(), True
                self._kept[key] = found
                while len(self._kept) > self.most:
                    self._kept.popitem(last=False)
            self._kept.move_to_end(key)
        if new:
            found.add_done_callback(lambda done: self._forget(key, done))
            begin(found)
        return found

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()

    def _forget(self, key: Hashable, done: Future[Any]) -> None:
        if done.exception() is not None:
            with self._lock:
                self._kept.pop(key, None)


def _fill(future: Future[Any], work: Callable[[], Any]) -> None:
    try:
        future.set_result(work())
    except BaseException as problem:  # noqa: BLE001 - whatever it is belongs to those who wait
        future.set_exception(problem)


_PAGES, _YEARS, _PARTS = _Memory(64), _Memory(48), _Memory(16)
_WORKER = ThreadPoolExecutor(1, "yearly results")


def forget_pages() -> None:
    """Forget what pages show, so that it is worked out anew."""
    _PAGES.clear()


def kept(what: Hashable, work: Callable[[], Result]) -> Result:
    """The result of `what`, which names everything that it depends on."""
    found: Result = _PARTS.future(what, lambda future: _fill(future, work)).result()
    return found


def _send(future: Future[Any], work: Callable[[], Any]) -> None:
    _WORKER.submit(_fill, future, work)


def once(home: Home, what: Hashable, work: Callable[[], Result]) -> Result:
    """The result of `what` for the home as it is now; kept until anything is written to its store."""
    found: Result = _PAGES.future((home.version(), _in_utc(what)), lambda future: _fill(future, work)).result()
    return found


def _in_utc(what: Hashable) -> Hashable:
    """The same with its moments on UTC: on a local clock two of the hour that comes twice are equal."""
    if isinstance(what, datetime):
        return what.astimezone(UTC)
    return tuple(map(_in_utc, what)) if type(what) is tuple else what


WHOLE: tuple[type[Base], ...] = (HouseholdRow, PlaceRow, OutletRow, TariffRow, BandRow, SeasonRow, CarRow, HabitRow, LearntRow)
SUMS = (
    (DriveRow.km, DriveRow.id),
    (DriveRow.soc_end, DriveRow.id),
    (ChargeRow.wall_kwh, ChargeRow.id),
    (ChargeRow.soc_end, ChargeRow.id),
    (MeterRow.kwh, MeterRow.start_s),
    (PriceRow.price_per_kwh, PriceRow.start_s),
    (WeatherRow.temp_c, WeatherRow.start_s),
)
PASSING = {"revision", "clock"}


def stamp(session: Session) -> Hashable:
    """What a year's results depend on: the home's parts, tariffs, cars and habits whole; what was noted, measured and dated by its sums
    and by where its values stand.
    """
    parts = [
        tuple(
            map(str, session.execute(select(*(column for column in kind.__table__.columns if column.name not in PASSING))).all())
        )
        for kind in WHOLE
    ]
    sums = [
        session.execute(select(func.count(), func.total(value), func.total(place), func.total(value * place))).one()
        for value, place in SUMS
    ]
    return tuple(parts), tuple(tuple(each) for each in sums)


def remembered(home: Home, what: Hashable, work: Callable[[], Result], wait_s: float) -> Result:
    """The kept result of `what`, worked out when it is not there. Raises: NotYet when it takes longer than `wait_s`."""

    def now() -> Hashable:
        with home.reading() as session:
            return stamp(session)

    key = (home.world.weather, once(home, "stamp", now), what)
    future = _YEARS.future(key, lambda future: _send(future, work))
    try:
        found: Result = future.result(wait_s)
    except TooLong as late:
        if future.done():
            raise
        raise NotYet from late
    return found
