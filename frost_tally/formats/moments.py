"""Times of files: ISO 8601 or with day or month first, local ones on a zone's clock, each checked against what the clock leaves out."""

import re
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from . import values

ORDERS = {"iso": "2027-01-14 18:05", "dmy": "14.01.2027 18:05", "mdy": "01/14/2027 18:05"}
"""The orders of a date that files have, with an example."""
_PARTS = re.compile(
    r"(\d{1,2})[./-](\d{1,2})[./-](\d{4})[ T,]+(\d{1,2})[:.](\d{2})(?::(\d{2}))?(?:\.\d+)?\s*([ap]m)?", re.ASCII | re.IGNORECASE
)


class Moments:
    """Reads times; local ones take the zone, and in the repeated autumn hour the order of the rows decides.

    `notes` say what was assumed.
    """

    def __init__(self, zone: str, order: str = "iso") -> None:
        self.zone, self.order, self.last, self.notes = ZoneInfo(zone), order, 0.0, list[str]()

    def read(self, cell: str) -> datetime:
        """A time on UTC. Raises: ValueError with a reason for a person."""
        try:
            moment = values.moment(cell) if self.order == "iso" else self._parts(cell)
        except ValueError:
            raise ValueError(f"“{cell[:30]}” is not a time from 1970 to 2100 such as {self._example()}") from None
        if moment.tzinfo is None:
            moment = self._local(moment, cell)
        found = moment.astimezone(UTC)
        self.last = found.timestamp()
        return found

    def _example(self) -> str:
        return "2027-01-14T18:00+01:00" if self.order == "iso" else ORDERS[self.order]

    def _parts(self, cell: str) -> datetime:
        found = _PARTS.fullmatch(cell.strip())
        if found is None:
            raise ValueError("not in this order")
        first, second, year, hour, minute = (int(each) for each in found.groups()[:5])
        day, month = (first, second) if self.order == "dmy" else (second, first)
        if found[7]:
            hour = hour % 12 + (12 if found[7].lower() == "pm" else 0)
        return values.moment(datetime(year, month, day, hour, minute, int(found[6] or 0)).isoformat())

    def _local(self, moment: datetime, cell: str) -> datetime:
        note = f"times without an offset were read on the clock of {self.zone.key}"
        if note not in self.notes:
            self.notes.append(note)
        local = moment.replace(tzinfo=self.zone)
        if local.astimezone(UTC).astimezone(self.zone).replace(tzinfo=None) != moment:
            raise ValueError(f"{cell.strip()[:30]} does not exist: the clocks go forward there")
        if local.timestamp() < self.last - 1 and (later := local.replace(fold=1)).timestamp() > local.timestamp():
            return later
        return local
