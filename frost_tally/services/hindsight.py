"""The nights that are over, each against its cheapest hours; from the log, for owners by hand, by timer and linked."""

from bisect import bisect_right
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ..core.charge.night import NightRequest
from ..core.charge.supply import charge_rate
from ..core.drive.usual import soaked_c
from ..core.errors import Refusal, require
from ..core.heat.around import parked_between
from ..core.home import OfCar, OwnedCar
from ..core.live.hindsight import Hindsight, hindsight
from ..household.log_facts import Charged, charges, drives
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .shared.climate import climate_of
from .shared.derived import LONG_S, derived_later
from .shared.measured import charging_car

MONTH, MOST = 30, 370
LONGEST, LEAST_SOC = timedelta(days=3), 0.02
READS = ("drive", "charge", "price", "weather")


@dataclass(frozen=True, kw_only=True)
class HindsightInputs:
    """What can be set: so many days back."""

    days: int = MONTH


@dataclass(frozen=True, kw_only=True)
class HindsightRoom(OfCar):
    """A car's nights that are over, the latest first, each against its cheapest hours."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: HindsightInputs
    defaults: HindsightInputs
    currency: str
    nights: tuple[Hindsight, ...]

    @property
    def was(self) -> float:
        """What they cost, money."""
        return sum(each.was for each in self.nights)

    @property
    def hours(self) -> float:
        """What other hours would have spared, money."""
        return sum(each.hours for each in self.nights)

    @property
    def control(self) -> float:
        """What any hours would have spared beside that, money."""
        return sum(each.control for each in self.nights)


def hindsight_room(
    snapshot: Snapshot,
    car_id: int | None = None,
    override: Callable[[HindsightInputs], HindsightInputs] = lambda defaults: defaults,
    wait_s: float = LONG_S,
) -> HindsightRoom:
    """The page for a car (the first when None). Raises: NotSetUp, OutOfRange with its field, NotYet."""
    owned = snapshot.home.ready_car(car_id)
    defaults = HindsightInputs()
    inputs = override(defaults)
    require(inputs.days, 1, MOST, "The days back", "", "days")
    until = snapshot.now.replace(minute=0, second=0, microsecond=0)

    def work(reading: Snapshot) -> tuple[Hindsight, ...]:
        return tuple(reversed(list(_nights(reading, owned, until - timedelta(days=inputs.days), until))))

    nights = derived_later(snapshot, ("hindsight", owned, inputs, until.date()), work, wait_s, READS)
    return HindsightRoom(
        owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, currency=snapshot.home.currency, nights=nights
    )


def _nights(snapshot: Snapshot, owned: OwnedCar, since: datetime, until: datetime) -> Iterator[Hindsight]:
    """The nights at home of a span that were charged, the earliest first; those whose levels nobody noted are left out."""
    early, late = since - LONGEST, until + timedelta(days=1)
    driven = drives(snapshot.log, owned.id, early, late)
    left, home = [each.left_s for each in driven], [each.home_s for each in driven]
    by_night: dict[int, list[Charged]] = {}
    for each in charges(snapshot.log, owned.id, since, until):
        whole = each.ended_s is not None and each.soc_start is not None and each.soc_end is not None
        if each.site == "home" and whole:
            by_night.setdefault(bisect_right(left, each.begun_s), []).append(each)
    for number, found in by_night.items():
        found.sort(key=lambda each: each.begun_s)
        first, last = found[0], found[-1]
        ended_s = last.ended_s or last.begun_s
        before = bisect_right(home, first.begun_s) - 1
        plugged_s = home[before] if before >= 0 and first.begun_s - home[before] < LONGEST.total_seconds() else first.begun_s
        if number >= len(left):  # it is not over yet
            continue
        leaves_s = left[number]
        if ended_s >= leaves_s or leaves_s - plugged_s > LONGEST.total_seconds():
            continue
        made = _night(snapshot, owned, plugged_s, leaves_s, soc=first.soc_start or 0.0, target=last.soc_end or 0.0)
        spans = [
            (datetime.fromtimestamp(each.begun_s, UTC), datetime.fromtimestamp(each.ended_s or each.begun_s, UTC))
            for each in found
        ]
        if made is not None:
            yield hindsight(made, spans)


def _night(
    snapshot: Snapshot, owned: OwnedCar, plugged_s: float, leaves_s: float, *, soc: float, target: float
) -> NightRequest | None:
    """The night as it could have been planned; None where next to nothing was charged, or the outlet cannot."""
    if target - soc < LEAST_SOC or target < 0.1:
        return None
    plugged, leaves = (datetime.fromtimestamp(each, UTC).astimezone(owned.zone) for each in (plugged_s, leaves_s))
    car, outside_c = charging_car(snapshot, owned), climate_of(snapshot, owned.place).temperature_c
    around = parked_between(outside_c, plugged.astimezone(UTC), leaves.astimezone(UTC), *owned.place.standing)
    span = plugged - timedelta(hours=1), leaves + timedelta(hours=1)
    try:
        rate = charge_rate(owned.at.supply, car)
    except Refusal:
        return None
    return NightRequest(
        now=plugged, plug_in=plugged, departure=leaves, soc=soc, target_soc=target, car=car, rate=rate,
        tariff=with_prices(snapshot.log, owned.pays, span), ambient_c=around, held=owned.at.held, margin_min=0.0,
        pack_c=soaked_c(car, owned.habit.trip, outside_c, around, plugged, left=owned.habit.depart), control=owned.habit.control,
    )  # fmt: skip
