"""Tries that fail are slowed: five are free, then each waits longer than the one before."""

from collections import OrderedDict
from collections.abc import Callable
from datetime import datetime, timedelta
from threading import Lock

from ..core.errors import Refusal

FREE, FIRST, LONGEST = 5, timedelta(seconds=5), timedelta(minutes=15)
MOST = 4000


class TooManyTries(Refusal):
    """Too many tries failed: after so many seconds one may be made again."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"Too many tries. Try again in {seconds} s.")
        self.seconds = seconds


class Throttle:
    """Failed tries by key (a person, an address), the latest of them; a try that succeeds forgets its keys."""

    def __init__(self, clock: Callable[[], datetime]) -> None:
        self.clock, self._failed, self._lock = clock, OrderedDict[str, tuple[int, datetime]](), Lock()

    def check(self, *keys: str) -> None:
        """Count a try, as failed until `forget` is called. Raises: TooManyTries, for a key that has to wait."""
        now = self.clock()
        with self._lock:
            waits = [self._until(key) - now for key in keys]
            if (longest := max(waits, default=timedelta())) > timedelta():
                raise TooManyTries(int(longest.total_seconds()) + 1)
            for key in keys:
                count = self._failed.pop(key, (0, now))[0]
                self._failed[key] = count + 1, now
            while len(self._failed) > MOST:
                self._failed.popitem(last=False)

    def forget(self, *keys: str) -> None:
        """The try of these keys succeeded."""
        with self._lock:
            for key in keys:
                self._failed.pop(key, None)

    def _until(self, key: str) -> datetime:
        count, last = self._failed.get(key, (0, datetime.min.replace(tzinfo=self.clock().tzinfo)))
        if count < FREE:
            return last
        return last + min(LONGEST, FIRST * 2.0 ** min(count - FREE, 20))
