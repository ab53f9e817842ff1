"""A simulated point with a simulated car: what really happens in a night for what is asked of it, faults included."""

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from math import inf

from ..charge.night import NightRequest
from ..charge.night_clock import NightClock
from ..charge.session import Running, Session
from ..charge.supply import ChargeRate
from ..units import S_PER_H
from .faults import AWAY, UNHEARD, FaultKind, Faults
from .profile import Profile

DRAWS_KW = 0.1
"""Under this a car counts as not drawing."""
SAME_MOMENT_S = 1e-6
"""A datetime knows no less."""


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What the point reports at a moment, as far as it is heard: whether a car is plugged and whether it is ours, what it draws (kW) and
    its amperes, the energy since the night's start (kWh), and the level (0 to 1) where the car tells it.
    """

    at: datetime
    heard: bool
    plugged: bool
    ours: bool
    wall_kw: float
    amps: float
    wall_kwh: float
    soc: float | None


@dataclass(kw_only=True)
class House:
    """The night of a request from its start on. Moved on by `until`; a point that is not heard goes on with the profile that it has. From
    `warms_from` on the wall feeds the car's warm-up (None: it has none), and nothing is charged.
    """

    request: NightRequest
    faults: Faults
    clock: NightClock
    tells_soc: bool = False
    profile: Profile = field(default_factory=Profile)
    warms_from: datetime | None = None
    woken: bool = False
    running: Running = field(init=False)
    wall_kw: float = 0.0

    def __post_init__(self) -> None:
        ask, start = self.request, self.clock.start

        def air_c(at_s: float) -> float:
            return float(ask.ambient_c(start + timedelta(seconds=at_s)))

        limit = self.faults.limit(ask.target_soc)
        self._asked: tuple[object, ...] = ()
        self._turns_s: tuple[float, ...] = ()
        self._same_until_s = -inf
        self._drawn_with: ChargeRate | None = None
        self.running = Running(ask.car, ask.rate, limit, air_c, ask.soc, pack_c=ask.pack_c, step_s=300.0)

    @property
    def now(self) -> datetime:
        """The moment that it has come to."""
        return self.clock.moment(self.running.at_s)

    @property
    def draws_for_s(self) -> float:
        """How long it goes on drawing at least, s: at full power until the car stops by itself; 0 where it does not draw."""
        if self.wall_kw <= DRAWS_KW:
            return 0.0
        return (self.running.limit - self.running.soc) * self.request.car.pack.usable_kwh / self.running.flat_kw * S_PER_H

    def until(self, moment: datetime) -> None:
        """Let the night go on until a moment."""
        begin_s, last_s = self.running.at_s, self.clock.seconds(moment)
        asked = self.profile, self.warms_from, self.woken, self.faults
        if asked != self._asked:
            turns = [begin for begin, _ in self.profile.periods] + [*filter(None, [self.warms_from])]
            turns += [edge for each in self.faults for edge in (each.begin, each.end)]
            held_s = [edge for each in self.clock.held for edge in (each.begin_s, each.end_s)]
            self._asked, self._turns_s = asked, tuple(sorted({*held_s, *map(self.clock.seconds, turns)}))
            self._same_until_s = -inf
        for end_s in (*(edge for edge in self._turns_s if begin_s < edge < last_s), last_s):
            at_s, before = self.running.at_s, self.running.wall_kwh
            if at_s > self._same_until_s - SAME_MOMENT_S:  # until the next turn it draws with the same
                self._drawn_with = self._rate(self.now)
                self._same_until_s = next((edge for edge in self._turns_s if edge > at_s + SAME_MOMENT_S), inf)
                if self._drawn_with is not None:
                    self.running.draw_from(self._drawn_with)
            if self._drawn_with is None:
                self.running.wait(end_s)
            else:
                self.running.charge(end_s)
            self.wall_kw = (self.running.wall_kwh - before) * 3600.0 / max(end_s - at_s, 1e-6)

    def _rate(self, at: datetime) -> ChargeRate | None:
        """What the car draws with; None when it draws nothing."""
        faults = self.faults
        if self.warms_from is not None and at >= self.warms_from:
            return None
        still = faults.any_at(at, FaultKind.REFUSES) or (faults.any_at(at, FaultKind.ASLEEP) and not self.woken)
        if still or faults.any_at(at, FaultKind.POWER_CUT, *AWAY):
            return None
        here = self.clock.rate_at(self.clock.seconds(at), self.request.rate)
        return here and here.held_to(min(self.profile.amps(at), offered_amps(here, faults, at)))

    def seen(self) -> Seen:
        """What can be known of it now."""
        at, faults = self.now, self.faults
        wrong = faults.any_at(at, FaultKind.WRONG_CAR)
        away = faults.any_at(at, FaultKind.LATE, FaultKind.UNPLUGGED)
        kw = self.wall_kw if self.wall_kw > DRAWS_KW else 0.0
        return Seen(
            at=at,
            heard=not faults.any_at(at, *UNHEARD),
            plugged=not away,
            ours=not wrong,
            wall_kw=kw,
            amps=kw / self.request.rate.wall_kw * self.request.rate.amps,
            wall_kwh=self.running.wall_kwh,
            soc=self.running.soc if self.tells_soc and not away and not wrong else None,
        )

    def wake(self) -> None:
        """Take the power away for a moment, and give it again: what wakes a car that sleeps."""
        self.woken = self.woken or not self.faults.any_at(self.now, *AWAY, *UNHEARD)

    def session(self) -> Session:
        """What happened so far."""
        return self.running.session()


def offered_amps(rate: ChargeRate, faults: Faults, at: datetime) -> float:
    """What the supply gives at a moment, A."""
    return min((fault.amps for fault in faults.of((FaultKind.LESS_CURRENT,)) if fault.at(at)), default=rate.amps)
