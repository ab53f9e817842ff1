"""Results that cost a second to work out, kept until the household changes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar

from ..household.home import Home, household

Result = TypeVar("Result")
MOST = 48
_kept: OrderedDict[Hashable, object] = OrderedDict()
_lock = Lock()


class NotYet(RuntimeError):
    """The result takes a second or two to work out, and nobody has asked for it yet."""


def _key(home: Home, what: Hashable) -> Hashable:
    with home.reading() as session:
        return str(home.engine.url), household(session).revision, what


def known(home: Home, what: Hashable) -> bool:
    """Whether the result is there for the household as it is now."""
    return _key(home, what) in _kept


def remembered(home: Home, what: Hashable, work: Callable[[], Result]) -> Result:
    """The kept result of `what` for the household as it is now, worked out when it is not there."""
    key = _key(home, what)
    if key not in _kept:
        result = work()
        with _lock:
            _kept[key] = result
            while len(_kept) > MOST:
                _kept.popitem(last=False)
        return result
    return _kept[key]  # type: ignore[return-value]
