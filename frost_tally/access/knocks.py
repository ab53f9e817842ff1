"""Who knocked and was not let in: charge points that nobody knows, or with a wrong password; the latest few, while the server runs."""

from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from threading import Lock

MOST, LONGEST = 20, 40


@dataclass(frozen=True)
class Knock:
    """Somebody who was not let in: by which name, from which address, why ("name", "unknown", "password", "tries"), when last and how
    often.
    """

    identity: str
    address: str
    why: str
    at: datetime
    times: int


class Knocks:
    """The latest of them by name and address."""

    def __init__(self) -> None:
        self._kept, self._lock = OrderedDict[tuple[str, str], Knock](), Lock()

    def add(self, identity: str, address: str, why: str, at: datetime) -> None:
        """Somebody knocked."""
        name = "".join(each if each.isprintable() else "?" for each in identity[:LONGEST])
        with self._lock:
            before = self._kept.pop((name, address), None)
            self._kept[name, address] = Knock(name, address[:60], why, at, 1 + (before.times if before else 0))
            while len(self._kept) > MOST:
                self._kept.popitem(last=False)

    def forget(self, identity: str) -> None:
        """It is let in now."""
        with self._lock:
            self._kept = OrderedDict((key, each) for key, each in self._kept.items() if each.identity != identity)

    def latest(self) -> tuple[Knock, ...]:
        """The latest first."""
        with self._lock:
            return tuple(reversed(self._kept.values()))
