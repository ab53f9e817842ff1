"""Results kept while nothing that they were made from is changed; what several ask for at the same time is worked out once.

There are two ways to keep a result: by the value it was made from (`of_value`, and the core's own caches), and by the counters of the
tables that it was read from (`derived`). Results that take a second or two are worked out by a thread of their own, so that they
never hold up a page. Why: docs/decisions/0030 and docs/decisions/0051.
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from datetime import UTC, datetime
from threading import Lock
from typing import Any, TypeVar

from ...household.snapshot import Snapshot
from ..log_data.size import bytes_of

Result = TypeVar("Result")
LONG_S = 60.0
KEY_BYTES, EACH, A_FEW = 1 << 12, 64, 3


class NotYet(RuntimeError):
    """The result takes a second or two to work out: it is being worked on."""


class _Memory:
    """The latest results by key, as futures: whoever asks first works it out, or has it worked out. The oldest go when all together
    take more than `most` bytes.
    """

    def __init__(self, most: int) -> None:
        self.most, self.bytes, self._lock = most, 0, Lock()
        self._kept: OrderedDict[Hashable, tuple[Future[Any], int]] = OrderedDict()
        self._sizes: dict[Hashable, tuple[int, int]] = {}

    def future(self, key: Hashable, begin: Callable[[Future[Any]], None]) -> Future[Any]:
        """The result of a key to wait for; `begin` is called for one that nobody asked for yet. A failure is not kept."""
        with self._lock:
            found, _ = self._kept.get(key, (None, 0))
            if found is not None:
                self._kept.move_to_end(key)
                return found
            found = Future()
            self._keep(key, found, KEY_BYTES)
        found.add_done_callback(lambda done: self._came(key, done))
        begin(found)
        return found

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
            self.bytes = 0

    def _came(self, key: Hashable, done: Future[Any]) -> None:
        size = 0 if done.exception() is not None else KEY_BYTES + self._size(done.result())
        with self._lock:
            if self._kept.get(key, (None, 0))[0] is done:
                self._drop(key)
                if size:
                    self._keep(key, done, size)

    def _keep(self, key: Hashable, found: Future[Any], size: int) -> None:
        self._kept[key] = found, size
        self.bytes += size
        while self.bytes > self.most and len(self._kept) > 1:
            self._drop(next(iter(self._kept)))

    def _drop(self, key: Hashable) -> None:
        self.bytes -= self._kept.pop(key)[1]

    def _size(self, result: object) -> int:
        """About its bytes; weighing takes a millisecond, so that of a kind one of so many is weighed, and the greatest counts for all."""
        kind: Any = tuple(map(type, result)) if isinstance(result, tuple) and len(result) <= A_FEW else type(result)
        asked, most = self._sizes.get(kind, (0, 0))
        if asked % EACH == 0 or kind in (list, dict, tuple):
            most = max(most, bytes_of(result))
        self._sizes[kind] = asked + 1, most
        return most


def _fill(future: Future[Any], work: Callable[[], Any]) -> None:
    try:
        future.set_result(work())
    except BaseException as problem:  # noqa: BLE001 - whatever it is belongs to those who wait
        future.set_exception(problem)


_MINUTE, _HERE, _LATER = _Memory(8 << 20), _Memory(16 << 20), _Memory(16 << 20)
"""What hangs on the minute has its own, or it would soon push out what holds for months."""
_WORKER = ThreadPoolExecutor(1, "yearly results")


def forget() -> None:
    """Forget everything that is kept here, so that it is worked out anew."""
    _MINUTE.clear()
    _HERE.clear()
    _LATER.clear()


def derived(snapshot: Snapshot, what: Hashable, work: Callable[[], Result], reads: Iterable[str] | None = None) -> Result:
    """The result of `what`, worked out when it is not kept: for as long as none of the tables that it `reads` (None: any of them) is
    written to, whatever the time is. What hangs on the minute has it in `what`. In a decision nothing is kept, for it may be taken back.
    """
    return _kept(_HERE, snapshot, what, work, reads)


def in_this_minute(snapshot: Snapshot, what: Hashable, work: Callable[[], Result]) -> Result:
    """The result of `what` in the state and in the minute of a snapshot."""
    return _kept(_MINUTE, snapshot, (what, snapshot.minute), work, None)


def made_of(result: object, what: Hashable, work: Callable[[], Result]) -> Result:
    """What is made of a result alone, kept for as long as that is the same object; it stands beside it, so that no other has its place."""
    future = _MINUTE.future(
        (what, id(result)), lambda future: _fill(future, lambda: (work(), lambda: result))
    )  # held, not weighed
    found: Result = future.result()[0]
    return found


def _kept(memory: _Memory, snapshot: Snapshot, what: Hashable, work: Callable[[], Result], reads: Iterable[str] | None) -> Result:
    if snapshot.counters is None:
        return work()
    key = snapshot.world.weather, id(snapshot.world), snapshot.state_of(reads), _in_utc(what)
    found: Result = memory.future(key, lambda future: _fill(future, work)).result()
    return found


def derived_later(
    snapshot: Snapshot, what: Hashable, work: Callable[[Snapshot], Result], wait_s: float, reads: Iterable[str]
) -> Result:
    """The same for what takes long: `work` gets a reading of its own. Raises: NotYet when it takes longer than `wait_s`."""
    tables = frozenset(reads)
    asked = snapshot.state_of(tables)

    def anew() -> Result:
        with snapshot.again() as reading:
            if reading.state_of(tables) != asked:  # written to meanwhile: whoever asks again asks for that
                raise NotYet
            return work(reading)

    return of_value((snapshot.world.weather, id(snapshot.world), asked, _in_utc(what)), anew, wait_s)


def of_value(key: Hashable, work: Callable[[], Result], wait_s: float) -> Result:
    """The kept result of a value that names all that it depends on, worked out when it is not there. Raises: NotYet."""
    future = _LATER.future(key, lambda future: _send(future, work))
    try:
        found: Result = future.result(wait_s)
    except TooLong as late:
        if future.done():
            raise
        raise NotYet from late
    return found


def _send(future: Future[Any], work: Callable[[], Any]) -> None:
    _WORKER.submit(_fill, future, work)


def _in_utc(what: Hashable) -> Hashable:
    """The same with its moments on UTC: on a local clock two of the hour that comes twice are equal."""
    if isinstance(what, datetime):
        return what.astimezone(UTC)
    return tuple(map(_in_utc, what)) if type(what) is tuple else what
