"""What would help: what each change would give on the same day, ranked by gain per effort, each with its price in minutes or money."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from ..basis import Basis, figure
from ..car import Car
from ..drive.batch import Driving, Pass, alone, kept
from ..drive.day import Road, Scenarios, Start, Trip
from ..drive.extras import COVERS_OFF, REAR_CARRIER, ROOF_BOX, SNOW, WINDOW, Extras
from ..drive.habits import GENTLE
from ..drive.road import Conditions, friction_share
from ..drive.trip import cases, side_by_side
from ..heat.warm import WarmUpChoice, warm_up

COOLER_K = 3.0
STEP_SOC = 0.10


@dataclass(frozen=True, kw_only=True)
class Situation:
    """The day as it stands, and what the remedies need to know.

    `motorway` multiplies its speeds; `later_c` is the air two hours later; `wall_kw` what the cable gives (0 unplugged);
    money per kWh in the pack, and from the wall in the last hour before departure.
    """

    car: Car
    trip: Trip
    conditions: Conditions
    start: Start
    extras: Extras
    warmed: WarmUpChoice
    wall_kw: float
    price_in_pack: float
    morning_price: float
    later_c: float
    limit_soc: float
    motorway: float = 1.0

    def on(self, trip: Trip) -> "Situation":
        """The same on another trip, with everything on the car that a change could take off, and the pack not warmed."""
        on_car = Extras(roof_box=True, rear_carrier=True, covers_off=True, snow=True, windows=True)
        factor = self.conditions.drag_factor / self.extras.drag_factor
        soaked = Start(self.start.soc, self.conditions.ambient_c, self.conditions.ambient_c)
        return replace(
            self, trip=trip, extras=on_car, warmed=WarmUpChoice.NOTHING, start=soaked,
            conditions=replace(self.conditions, drag_factor=factor * on_car.drag_factor, style=1.0),
        )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Remedy:
    """One change: key, what it gives at arrival (level 0 to 1) and in range (km), what it costs in minutes and money."""

    key: str
    gain_soc: float
    gain_km: float
    minutes: float
    cost: float
    effort: float

    @property
    def worth(self) -> float:
        """Gain per effort, for the ranking."""
        return self.gain_soc / self.effort


Change = Callable[[Situation], tuple[Situation, float] | None]


def remedies(now: Situation, least_soc: float = 0.002) -> tuple[Remedy, ...]:
    """All remedies that give at least `least_soc` at arrival on this day, the best per effort first."""
    return alone(helping(now, least_soc))


@kept
def helping(now: Situation, least_soc: float = 0.002) -> Driving[tuple[Remedy, ...]]:
    """`remedies` as a work that can be driven together with others."""
    _, found = yield from changing(now, {key: change for key, (_, change) in REMEDIES.items()})
    helps = (replace(each, effort=REMEDIES[each.key][0]) for each in found if each.gain_soc >= least_soc)
    return tuple(sorted(helps, key=lambda remedy: -remedy.worth))


def changing(now: Situation, changes: Mapping[str, Change]) -> Driving[tuple[float, tuple[Remedy, ...]]]:
    """What a day uses (0 to 1), and what each change gives that can be made on it, without its effort, in their order."""
    changed = {key: done for key, change in changes.items() if (done := change(now)) is not None}
    days = [now, *(then for then, _ in changed.values())]
    outcome = yield Pass(now.car, now.trip, now.conditions, side_by_side([_case(day, now) for day in days]))
    used, hours = outcome.soc_used, outcome.hours
    per_soc = now.trip.distance_km / max(float(used[0]), 1e-9)
    found = []
    for i, (key, (then, cost)) in enumerate(changed.items(), 1):
        gain = float((then.start.soc - used[i]) - (now.start.soc - used[0]))
        minutes = 60.0 * float(hours[i] - hours[0])
        found.append(Remedy(key=key, gain_soc=gain, gain_km=gain * per_soc, minutes=minutes, cost=cost, effort=1.0))
    return float(used[0]), tuple(found)


def _case(day: Situation, now: Situation) -> Scenarios:
    """A changed day as a case of the day as it stands."""
    set_c, was_c = day.conditions.cabin_set_c, now.conditions.cabin_set_c
    cooler_k = was_c - set_c if set_c is not None and was_c is not None else 0.0
    seats = day.conditions.seats - now.conditions.seats
    return replace(cases(day.car, day.conditions, day.start), motorway=day.motorway, cooler_k=cooler_k, seats=seats)


def _slower(by_kmh: float) -> Change:
    def change(now: Situation) -> tuple[Situation, float] | None:
        speeds = [leg.speed_kmh or 100.0 for leg in now.trip.drives if leg.road is Road.MOTORWAY and leg.distance_km > 0]
        if not speeds or speeds[0] - by_kmh < 60:
            return None
        return replace(now, motorway=now.motorway * (speeds[0] - by_kmh) / speeds[0]), 0.0

    return change


def _preheat(now: Situation) -> tuple[Situation, float] | None:
    if now.warmed is WarmUpChoice.CABIN_AND_PACK or now.wall_kw <= 0 or now.conditions.cabin_set_c is None:
        return None
    warm = warm_up(
        now.car, WarmUpChoice.CABIN_AND_PACK, cabin_c=now.start.cabin_c, pack_c=now.start.pack_c, ambient_c=now.conditions.ambient_c,
        set_c=now.conditions.cabin_set_c, wall_kw=now.wall_kw, overhead_kw=now.car.charger.overhead_kw,
    )  # fmt: skip
    soc = now.start.soc - warm.pack_kwh / now.car.pack.usable_kwh
    return replace(now, start=Start(soc, warm.pack_c, warm.cabin_c)), warm.wall_kwh * now.morning_price


def _tyres(now: Situation) -> tuple[Situation, float] | None:
    gauge = now.conditions.tyre_gauge_kpa
    if gauge is None or gauge >= now.car.tyres.placard_kpa - 1:
        return None
    return replace(now, conditions=replace(now.conditions, tyre_gauge_kpa=now.car.tyres.placard_kpa)), 0.0


def _off(name: str, factor: float) -> Change:
    def change(now: Situation) -> tuple[Situation, float] | None:
        if not getattr(now.extras, name):
            return None
        return replace(now, conditions=replace(now.conditions, drag_factor=now.conditions.drag_factor / factor)), 0.0

    return change


def _cooler(now: Situation) -> tuple[Situation, float] | None:
    at = now.conditions
    if at.cabin_set_c is None or at.cabin_set_c - COOLER_K < 14 or at.ambient_c > at.cabin_set_c:
        return None
    return replace(now, conditions=replace(at, cabin_set_c=at.cabin_set_c - COOLER_K, seats=max(at.seats, 1))), 0.0


def _gentle(now: Situation) -> tuple[Situation, float] | None:
    if now.conditions.style <= GENTLE:
        return None
    return replace(now, conditions=replace(now.conditions, style=GENTLE)), 0.0


def _motor_brakes(now: Situation) -> tuple[Situation, float] | None:
    if friction_share(now.car, now.conditions) <= 0:
        return None
    return replace(now, conditions=replace(now.conditions, friction_share=0.0)), 0.0


def _pack_cold(now: Situation) -> tuple[Situation, float] | None:
    pack, at = now.car.pack, now.conditions
    if not pack.drive_heat_off or at.heater * at.pack_heat * pack.drive_heater_kw <= 0:
        return None
    return replace(now, conditions=replace(at, pack_heat=0.0)), 0.0


def _later(now: Situation) -> tuple[Situation, float] | None:
    if now.later_c <= now.conditions.ambient_c + 0.5:
        return None
    return replace(now, conditions=replace(now.conditions, ambient_c=now.later_c)), 0.0


def _limit(now: Situation) -> tuple[Situation, float] | None:
    room = min(STEP_SOC, 1.0 - now.limit_soc)
    if room < 0.005:
        return None
    return replace(now, start=replace(now.start, soc=now.start.soc + room)), room * now.car.pack.usable_kwh * now.price_in_pack


def _effort(key: str, value: float, what: str) -> float:
    return figure(f"remedy.{key}", value, "", Basis.COMMON_PRACTICE, f"effort of {what}, 1 for a touch, 5 for a change of plan")


REMEDIES: dict[str, tuple[float, Change]] = {
    key: (_effort(key, effort, what), change)
    for key, effort, what, change in (
        ("slower_5", 1.5, "driving {5 km/h} slower", _slower(5.0)),
        ("slower_10", 2.5, "driving {10 km/h} slower", _slower(10.0)),
        ("preheat", 1.0, "warming on the cable", _preheat),
        ("tyres", 2.0, "pumping the tyres", _tyres),
        ("covers", 2.0, "putting covers on", _off("covers_off", COVERS_OFF)),
        ("box", 4.0, "taking the box off", _off("roof_box", ROOF_BOX)),
        ("carrier", 3.0, "taking the carrier off", _off("rear_carrier", REAR_CARRIER)),
        ("snow", 1.0, "brushing the car", _off("snow", SNOW)),
        ("windows", 1.0, "closing the windows", _off("windows", WINDOW)),
        ("cooler", 1.5, "{3 K} less with warm seats", _cooler),
        ("gentle", 2.0, "driving gently", _gentle),
        ("motor_brakes", 2.0, "braking with the motor alone", _motor_brakes),
        ("pack_cold", 1.0, "switching pack heating off", _pack_cold),
        ("later", 4.0, "leaving later", _later),
        ("limit", 1.0, "a higher limit", _limit),
    )
}
"""Effort and change of each, by key. A new remedy is one function, one line here, and its words."""
