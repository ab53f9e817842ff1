"""The simulated outlet with its car: what happens there by itself, by the profiles that it was left, and by what somebody does to it."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from enum import StrEnum

from ...core.car import Car
from ...core.charge.night import NightRequest
from ...core.charge.night_clock import NightClock
from ...core.charge.supply import ChargeRate
from ...core.charge.tariff import Tariff
from ...core.live.faults import AWAY, UNHEARD, Fault, FaultKind, Faults
from ...core.live.heard import Socket
from ...core.live.house import DRAWS_KW, House
from ...core.live.profile import Profile

SPAN = timedelta(days=4)
"""A car stands at most so long on the cable."""


class Act(StrEnum):
    """What somebody can do to it."""

    PLUG = "plug"
    UNPLUG = "unplug"
    CUT = "cut"
    MEND = "mend"
    SLEEP = "sleep"
    REFUSE = "refuse"
    WEAK = "weak"
    SILENCE = "silence"


FAULT_OF = {
    Act.CUT: FaultKind.POWER_CUT, Act.SLEEP: FaultKind.ASLEEP, Act.REFUSE: FaultKind.REFUSES, Act.WEAK: FaultKind.LESS_CURRENT,
    Act.SILENCE: FaultKind.NOT_HEARD,
}  # fmt: skip
LASTS = {
    Act.CUT: timedelta(hours=1), Act.SLEEP: timedelta(hours=8), Act.REFUSE: timedelta(hours=2), Act.WEAK: timedelta(hours=10),
    Act.SILENCE: timedelta(minutes=40),
}  # fmt: skip
WEAK_A = 8.0


@dataclass(frozen=True, kw_only=True)
class Guest:
    """A car as the outlet meets it: what it is, what it gets there, its level (0 to 1), its own limit, its card, and whether it tells its
    level.
    """

    car: Car
    rate: ChargeRate
    soc: float = 0.4
    limit: float = 1.0
    tag: str = ""
    tells: bool = True


@dataclass(kw_only=True)
class Garage:
    """An outlet. `now` is its own clock (aware, UTC); `register_kwh` its meter; profiles stand in it through whatever happens."""

    now: datetime
    air_c: Callable[[datetime], float] = lambda at: 0.0
    register_kwh: float = 1234.5
    default: Profile | None = None
    running: Profile | None = None
    guest: Guest | None = None
    faults: list[Fault] = field(default_factory=list)
    house: House | None = None

    def plug(self, guest: Guest) -> None:
        """A car comes onto the cable."""
        start = self.now.astimezone(UTC)
        request = NightRequest(
            now=start, plug_in=start, departure=start + SPAN, soc=guest.soc, target_soc=guest.limit, car=guest.car, rate=guest.rate,
            tariff=Tariff(name="", zone="UTC", bands=()), ambient_c=self.air_c, pack_c=self.air_c(start) + 4.0,
        )  # fmt: skip
        self.guest = guest
        self.house = House(
            request=request, faults=Faults(), clock=NightClock(start, SPAN.total_seconds(), ()), tells_soc=guest.tells
        )

    def unplug(self) -> None:
        """It is taken off; what it charged stays in it."""
        if self.house is not None and self.guest is not None:
            self.guest = replace(self.guest, soc=self.house.running.soc)
        self.house, self.running = None, None

    def act(self, what: Act, guest: Guest | None = None) -> None:
        """Somebody does something; a fault lasts for its time, or until it is mended."""
        if what is Act.PLUG and self.house is None and (guest or self.guest) is not None:
            self.plug(guest or self.guest)  # type: ignore[arg-type]
        elif what is Act.UNPLUG:
            self.unplug()
        elif what is Act.MEND:
            self.faults = []
        elif what in FAULT_OF:
            self.faults.append(Fault(kind=FAULT_OF[what], begin=self.now, end=self.now + LASTS[what], amps=WEAK_A))

    def until(self, moment: datetime) -> None:
        """Let time go on; never back."""
        if moment <= self.now:
            return
        self.faults = [each for each in self.faults if each.end > self.now]
        if self.house is not None:
            before = self.house.running.wall_kwh
            self.house.faults = Faults(tuple(self.faults))
            self.house.profile = self.profile or Profile(((self.now - SPAN, self.house.request.rate.amps),))
            self.house.until(min(moment, self.house.clock.start + SPAN))
            self.register_kwh += self.house.running.wall_kwh - before
        self.now = moment

    @property
    def profile(self) -> Profile | None:
        """What stands in it: of the charge that is under way, else the default."""
        return self.running or self.default

    @property
    def gives(self) -> bool:
        """Whether it offers power now."""
        return self.profile is None or self.profile.amps(self.now) > 0

    def so(self, *kinds: FaultKind) -> bool:
        """Whether one of some faults is so now."""
        return Faults(tuple(self.faults)).any_at(self.now, *kinds)

    @property
    def heard(self) -> bool:
        """Whether it can speak."""
        return not self.so(*UNHEARD)

    @property
    def powered(self) -> bool:
        """Whether it has power."""
        return not self.so(FaultKind.POWER_CUT)

    @property
    def kw(self) -> float:
        """What flows now, kW: as it was over the last step."""
        return 0.0 if self.house is None or self.house.wall_kw <= DRAWS_KW or not self.powered else self.house.wall_kw

    @property
    def soc(self) -> float | None:
        """The level, where the car tells it."""
        return self.house.running.soc if self.house is not None and self.guest is not None and self.guest.tells else None

    def socket(self, transaction: bool) -> Socket:
        """How it stands."""
        if self.house is None or self.so(*AWAY):
            return Socket.FREE
        if self.kw > 0:
            return Socket.CHARGES
        return Socket.OFFERS if transaction and self.gives else Socket.HOLDS
