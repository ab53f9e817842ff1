"""A car whose week is asked for: what is true of it, and what somebody set for the night that is shown."""

from collections.abc import Hashable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property

from ..advice.limit import Charges, full_night
from ..advice.night_inputs import USUAL, NightInputs
from ..battery.cold import Chemistry
from .nights import Stay
from .now import Now
from .weather import Weather

OUTSIDE = ("out_now_c", "out_low_c")
"""The inputs that are the weather."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Asked:
    """A car whose week is asked for: what is true of it; the inputs of the night that it shows, where somebody set some, with the names of
    those that were set; `at_home`: nobody leaves unless somebody sets a departure.
    """

    now: Now
    inputs: NightInputs | None = None
    set_names: frozenset[str] = frozenset()
    day: str = ""

    @cached_property
    def base(self) -> NightInputs:
        """The inputs of the night that is shown, before limit and warm-up are decided."""
        return self.inputs or self.now.defaults_on(self.day)

    @cached_property
    def idle(self) -> bool:
        """Whether nobody leaves, as nothing is listed for days and nobody set a departure."""
        now = self.now
        return now.idle and now.kept is None and not self.day and self.base.depart == now.defaults.depart

    @cached_property
    def leaves(self) -> datetime:
        """The departure of the night that is shown."""
        return self.now.departure(self.base.depart)

    @cached_property
    def shown(self) -> int:
        """The number of the night that is shown: the one that ends with that departure."""
        begins = [each.begin for each in self.now.nights]
        return max((i for i, begin in enumerate(begins) if begin < self.leaves), default=0)

    @cached_property
    def nights(self) -> tuple[Stay, ...]:
        """The stays, the one that is shown as it was set."""
        found = list(self.now.nights)
        for i in range(self.shown):  # a departure that was put off to a later day leaves the days before it at home
            if found[i].away is None and found[i].due == self.now.due:
                found[i] = replace(found[i], due=(), stays=True)
        here = found[self.shown]
        listed = here.due or (self.now.due if self.base.day not in (USUAL, *self.now.days) else ())
        found[self.shown] = replace(here, leaves=self.leaves, due=listed or self.now.due, stays=self.idle)
        return tuple(found)

    @cached_property
    def key(self) -> Hashable:
        """All that the week is made from, by value: not the minute, where no night has begun in it."""
        now, typed = self.now, self.weather is not self.now.outside
        inputs = replace(self.base, soc_now=self.soc, out_now_c=0.0, out_low_c=0.0)
        kept = None if now.kept is None else (now.kept.id, now.kept.kept_at)
        return (
            now.owned, now.tariff, now.per_euro, now.pack_price, now.outside, now.miss_k, now.counted_k,
            kept, now.soc_then, now.then.low,
            self.at if now.under_way else None, now.tyres, now.errors, now.car, now.started, self.nights, self.full_night, inputs,
            now.plugged, self.set_names, self.day, self.idle, self.weather if typed else None,
        )  # fmt: skip

    @cached_property
    def weather(self) -> Weather:
        """The weather until the departure of the shown night: as it was set, or kept, else as far as it is known."""
        now = self.now
        if self.set_names & set(OUTSIDE):
            return now.typed(self.base, now.now)
        if now.kept is not None and set(now.kept.overrides) & set(OUTSIDE):
            return now.typed(self.base, now.kept.kept_at.astimezone(now.now.tzinfo))
        return now.outside

    @property
    def soc(self) -> float:
        """The level that the week is decided by: as it was set, else as the first night began."""
        return self.base.soc_now if "soc_now" in self.set_names else self.now.soc_then

    @property
    def at(self) -> datetime:
        """The moment that it is decided from: a night under way as it began, unless somebody set a level."""
        under_way = self.now.under_way and "soc_now" not in self.set_names
        return self.now.nights[0].begin if under_way else self.now.now

    @cached_property
    def full_night(self) -> int | None:
        """The night of a full charge, where the chemistry wants one and the limit is lower."""
        now = self.now
        full, lfp = now.full_at, now.car.pack.chemistry is Chemistry.LFP
        if full is None or not lfp or self.base.charges is Charges.AS_NEEDED or not self.takes("limit"):
            return None
        km = [0.0 if not each.leaves_home else self.base.km if i == self.shown else now.by_habit(now.day_of(each.due), each.due).km
              for i, each in enumerate(self.nights)]  # fmt: skip
        return full_night((now.now - full).total_seconds() / 86_400.0, km)

    def takes(self, name: str) -> bool:
        """Whether an input of the shown night is left to be decided: neither set nor kept."""
        return name not in self.set_names and self.now.kept is None
