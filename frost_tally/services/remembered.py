"""Results kept while nothing that they depend on is changed; what several ask for at the same time is worked out once.

What a page shows is kept until anything is written (`once`); a year's results, which take a second or two, for as long as what they
depend on stands, and they are worked out by a thread of their own, so that they never hold up a page (`remembered`).
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from datetime import UTC, datetime
from threading import Lock
from typing import Any, TypeVar

from ..household.home import Home
from ..household.written import counted, times

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


def remembered(
    home: Home, what: Hashable, work: Callable[[], Result], wait_s: float, reads: Iterable[str] | None = None
) -> Result:
    """The kept result of `what`, worked out when it is not there, for as long as none of the tables that it `reads` (None: any of them) is
    written to.

    `what` names everything else that it depends on, the moment too. Raises: NotYet when it takes longer than `wait_s`.
    """
    return of_value((home.world.weather, times(home.engine, counted() if reads is None else reads), _in_utc(what)), work, wait_s)


def of_value(key: Hashable, work: Callable[[], Result], wait_s: float) -> Result:
    """The kept result of a value that names all that it depends on, worked out when it is not there. Raises: NotYet."""
    future = _YEARS.future(key, lambda future: _send(future, work))
    try:
        found: Result = future.result(wait_s)
    except TooLong as late:
        if future.done():
            raise
        raise NotYet from late
    return found
