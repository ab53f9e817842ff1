"""The demo's charge point: the simulated one on its outlet, at the demo's clock, with a night that can be let pass."""

import asyncio
import threading
import time
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta

from ..access.door import Access, Purpose
from ..core.charge.supply import charge_rate
from ..core.errors import Refusal
from ..core.live.faults import FaultKind
from ..core.parts import Outlet
from ..household.unit_of_work import Household
from ..services.shared.climate import weather_ahead
from ..services.shared.now import now_of
from ..standins.charge_point.client import Client
from ..standins.charge_point.garage import Act, Garage, Guest
from ..world import StandingClock

MINUTE_S, STEP, SETTLES_S = 0.12, timedelta(minutes=1), 0.5
"""A minute of the demo in so many seconds while a night passes; and how long it takes until what was done is told."""
FAULTS = {
    Act.CUT: FaultKind.POWER_CUT, Act.SLEEP: FaultKind.ASLEEP, Act.WEAK: FaultKind.LESS_CURRENT, Act.SILENCE: FaultKind.NOT_HEARD
}  # fmt: skip


class DemoPoint:
    """See `world.PointStandIn`. It speaks to the demo's own server at an address."""

    def __init__(self, household: Household, access: Callable[[], Access], address: str) -> None:
        self.household, self.access, self.address = household, access, address
        self.client: Client | None = None
        self.outlet: Outlet | None = None
        self._passes = threading.Event()

    def start(self) -> None:
        """Begin to speak, on a thread of its own."""
        threading.Thread(target=self._live, name="stand-in point", daemon=True).start()

    def _live(self) -> None:
        with self.household.reading() as snapshot:
            outlet, here = next((each for each in snapshot.home.outlets if each.point), None), snapshot.now.astimezone(UTC)
            if outlet is None:
                return
            air_c = weather_ahead(snapshot, snapshot.home.ready_car()).temperature_c
        access = self.access()
        for each in access.tokens():
            if each.purpose is Purpose.POINT and each.name == outlet.point:
                access.revoke(each.id)
        secret = access.make_token(Purpose.POINT, outlet.point)
        garage = Garage(now=here, air_c=air_c)
        self.outlet = outlet
        self.client = Client(garage, self.address, name=outlet.point, password=secret, clock=self._now, step_s=0.05)
        asyncio.run(self.client.run())

    def _now(self) -> datetime:
        return self.household.world.clock.now().astimezone(UTC)

    @property
    def acts(self) -> Sequence[str]:
        """See `PointStandIn`."""
        if self.client is None:
            return ()
        garage = self.client.garage
        if garage.house is None:
            return (Act.PLUG.value,)
        there = {each.kind for each in garage.faults if each.end > garage.now}
        faults = [each.value for each, kind in FAULTS.items() if kind not in there]
        return (Act.UNPLUG.value, *faults, *((Act.MEND.value,) if there else ()))

    def act(self, what: str, car_id: int) -> None:
        """See `PointStandIn`."""
        if self.client is None or self.outlet is None or what not in self.acts:
            raise Refusal("That cannot be done to the stand-in point now.")
        guest = None
        if what == Act.PLUG.value:
            with self.household.reading() as snapshot:
                owned, level = snapshot.home.ready_car(car_id), now_of(snapshot, car_id).level
            rate = charge_rate(self.outlet.supply, owned.car)
            limit = max(owned.habit.limit, level.likely)
            guest = Guest(car=owned.car, rate=rate, soc=level.likely, limit=limit, tag=owned.habit.tag)
        self.client.do(Act(what), guest)

    def pull(self) -> None:
        """See `PointStandIn`."""
        if self.client is not None and self.client.garage.house is not None:
            self.client.do(Act.UNPLUG, None)
            time.sleep(SETTLES_S)

    def let_pass(self, until: datetime) -> None:
        """See `PointStandIn`."""
        clock = self.household.world.clock
        if not isinstance(clock, StandingClock) or self._passes.is_set():
            raise Refusal("A night passes already: wait until it is over.")
        self._passes.set()
        threading.Thread(target=self._pass, args=(clock, until), name="the night passes", daemon=True).start()

    def _pass(self, clock: StandingClock, until: datetime) -> None:
        """The clock goes on to a departure; then the cable is pulled, and the car drives."""
        try:
            while (now := clock.now()) < until:
                clock.set(min(until, now + STEP))
                time.sleep(MINUTE_S)
            if self.client is not None:
                self.client.do(Act.UNPLUG, None)
            if self.household.world.passing is not None:
                self.household.world.passing(self.household, until - 2 * STEP, until + STEP)
            clock.set(until + STEP)
        finally:
            self._passes.clear()
