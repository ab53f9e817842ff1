"""The nights at home that are over, as the log has them: each as the planner would be asked for it, and when it was charged."""

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ...core.charge.night import NightRequest
from ...core.charge.supply import charge_rate
from ...core.charge.tariff import Tariff
from ...core.drive.usual import soaked_c
from ...core.errors import Refusal
from ...core.heat.around import parked_between
from ...core.home import OwnedCar
from ...household.log_facts import Charged, charges, drives
from ...household.prices import with_prices
from ...household.snapshot import Snapshot
from .climate import climate_of
from .measured import charging_car

LONGEST, LEAST_SOC = timedelta(days=3), 0.02


@dataclass(frozen=True, kw_only=True, eq=False)
class PastNight:
    """A night that is over: from the cable to leaving and from its first level to its last, when it was charged, and the share of the
    battery that the drive after it used (0 where it came home with more, charged on its way).
    """

    request: NightRequest
    spans: list[tuple[datetime, datetime]]
    used: float


def past_nights(snapshot: Snapshot, owned: OwnedCar, since: datetime, until: datetime) -> Iterator[PastNight]:
    """The nights at home whose charges began in a span, the earliest first; those whose levels nobody noted are left out."""
    early, late = since - LONGEST, until + timedelta(days=1)
    driven = drives(snapshot.log, owned.id, early, late)
    left, home = [each.left_s for each in driven], [each.home_s for each in driven]
    by_night: dict[int, list[Charged]] = {}
    for each in charges(snapshot.log, owned.id, since, until):
        whole = each.ended_s is not None and each.soc_start is not None and each.soc_end is not None
        if each.site == "home" and whole:
            by_night.setdefault(bisect_right(left, each.begun_s), []).append(each)
    tariff = with_prices(snapshot.log, owned.pays, (early, late))
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
        levels = first.soc_start or 0.0, last.soc_end or 0.0
        made = _night(snapshot, owned, tariff, (plugged_s, leaves_s), levels)
        spans = [
            (datetime.fromtimestamp(each.begun_s, UTC), datetime.fromtimestamp(each.ended_s or each.begun_s, UTC))
            for each in found
        ]
        if made is not None:
            yield PastNight(request=made, spans=spans, used=max(0.0, driven[number].soc_start - driven[number].soc_end))


def _night(
    snapshot: Snapshot, owned: OwnedCar, tariff: Tariff, span_s: tuple[float, float], levels: tuple[float, float]
) -> NightRequest | None:
    """The night as it could have been planned from one level to the other; None where next to nothing was charged, or the outlet cannot."""
    soc, target = levels
    if target - soc < LEAST_SOC or target < 0.1:
        return None
    plugged, leaves = (datetime.fromtimestamp(each, UTC).astimezone(owned.zone) for each in span_s)
    car, outside_c = charging_car(snapshot, owned), climate_of(snapshot, owned.place).temperature_c
    around = parked_between(outside_c, plugged.astimezone(UTC), leaves.astimezone(UTC), *owned.place.standing)
    try:
        rate = charge_rate(owned.at.supply, car)
    except Refusal:
        return None
    return NightRequest(
        now=plugged, plug_in=plugged, departure=leaves, soc=soc, target_soc=target, car=car, rate=rate,
        tariff=tariff, ambient_c=around, held=owned.at.held, margin_min=0.0,
        pack_c=soaked_c(car, owned.habit.trip, outside_c, around, plugged, left=owned.habit.depart), control=owned.habit.control,
    )  # fmt: skip
