"""How often scripts may ask: a bucket of requests for each of them, which fills again by the minute (token bucket, common practice)."""

from collections import OrderedDict
from collections.abc import Callable
from math import ceil
from threading import Lock
from time import monotonic

MOST = 2000


class TooOften(RuntimeError):
    """Asked more often than the settings allow; after so many seconds it may ask again."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"Ask again in {seconds} s.")
        self.seconds = seconds


class Buckets:
    """A bucket for each who asks: `per_minute` requests at once, then one each time that so much of a minute has passed."""

    def __init__(self, per_minute: int, clock: Callable[[], float] = monotonic) -> None:
        self.per_minute, self.clock = per_minute, clock
        self._left, self._lock = OrderedDict[str, tuple[float, float]](), Lock()

    def take(self, who: str) -> None:
        """Count a request. Raises: TooOften."""
        now = self.clock()
        with self._lock:
            left, at = self._left.pop(who, (float(self.per_minute), now))
            left = min(self.per_minute, left + (now - at) * self.per_minute / 60.0)
            self._left[who] = (left - 1.0 if left >= 1.0 else left), now
            while len(self._left) > MOST:
                self._left.popitem(last=False)
        if left < 1.0:
            raise TooOften(ceil((1.0 - left) * 60.0 / self.per_minute))
