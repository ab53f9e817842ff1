"""A charging session simulated in time: level, wall and pack energy, pack temperature, taper and cold."""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import chain, pairwise, repeat
from math import exp, expm1, inf, log, sqrt
from typing import NamedTuple

import numpy as np

from ..basis import Basis, figure
from ..battery.ageing import cold_factor, wear_cost
from ..battery.cold import CHARGE_FROM_C, charge_limit_kw, resistance_at
from ..car import HEATER_TO_PACK, PACK_VOLTAGE_V, PARKED_W_PER_K, STANDBY_PER_DAY, Car
from ..errors import OutOfRange
from ..units import S_PER_H, Array
from .supply import ChargeRate

TAPER_FROM_SOC = figure("session.taper_from", 0.97, "", Basis.COMMON_PRACTICE, "AC power is flat up to about 97 %")
TAPER_END = figure("session.taper_end", 0.10, "", Basis.COMMON_PRACTICE, "share of the power left at 100 %")
TAPER_SLOPE = (1 - TAPER_END) / (1 - TAPER_FROM_SOC)
WASTE_TO_PACK = figure(
    "session.charger_heat_to_pack", 0.3, "", Basis.FROM_MEMORY, "share of the charger's loss that warms the pack"
)
CHARGING_STEP_S = 300.0
WAITING_STEP_S = 1800.0

NO_STEP = np.zeros((1, 5))

Interval = tuple[float, float]


class Step(NamedTuple):
    """State at `at_s` (s from the start of the session) and the powers that led there."""

    at_s: float
    soc: float
    pack_c: float
    wall_kw: float
    pack_kw: float


@dataclass(frozen=True)
class Session:
    """Steps from start to end, and totals in kWh; `heating_kwh` is wall energy that went to the pack heater."""

    steps: tuple[Step, ...]
    wall_kwh: float
    pack_kwh: float
    heating_kwh: float
    unused_s: float

    @property
    def hours_to_limit(self) -> float:
        """Hours until the limit was reached, when charging went on from the start; inf when it never was."""
        return (self.steps[-1].at_s - self.unused_s) / S_PER_H if self.unused_s > 0 else float("inf")

    @property
    def tenths_min(self) -> tuple[float, ...]:
        """Minutes for each tenth of the level, from the first that the session passes through whole; () when it passes none."""
        levels = np.array([step.soc for step in self.steps])
        rising = slice(0, int(levels.argmax()) + 1)
        edges = [i / 10 for i in range(11) if levels[0] - 1e-9 <= i / 10 <= levels.max() + 1e-6]
        known, at_s = np.maximum.accumulate(levels[rising]), [step.at_s for step in self.steps[rising]]
        at = [0.0 if edge <= levels[0] + 1e-9 else float(np.interp(edge, known, at_s)) for edge in edges]
        return tuple((b - a) / 60.0 for a, b in pairwise(at))

    @cached_property
    def table(self) -> Array:
        """The steps as an array, shape (steps, 5)."""
        # an array of tuples takes eight times as long
        return np.fromiter(chain.from_iterable(self.steps), float, 5 * len(self.steps)).reshape(-1, 5)

    @property
    def lost_kwh(self) -> float:
        """Wall energy that neither reached the pack nor warmed it."""
        return self.wall_kwh - self.pack_kwh - self.heating_kwh

    def worn_kwh(self, car: Car) -> float:
        """Energy into the pack, weighted by what it wears at its temperature and rate (`battery.ageing.cold_factor`)."""
        kw = np.array([step.pack_kw for step in self.steps[1:]])
        pack_c = np.array([step.pack_c for step in self.steps])
        hours = np.diff([step.at_s for step in self.steps]) / S_PER_H
        return float(kw * hours @ cold_factor((pack_c[1:] + pack_c[:-1]) / 2, kw / car.pack.usable_kwh)) if len(kw) else 0.0

    def wear(self, car: Car, pack_per_kwh: float) -> float:
        """What the session wears of the pack, in the money of a new pack's price per kWh: energy by its temperature and rate, and
        standing at its levels (`battery.ageing.wear_cost`).
        """
        return float(wears(car, pack_per_kwh, [self])[0])

    def wall_kw(self, at_s: float) -> float:
        """Power at the wall at a time, kW; 0 before and after the session."""
        after = bisect_right(self._times_s, at_s)
        return self.steps[after].wall_kw if 0 < after < len(self.steps) else 0.0

    def at(self, at_s: float) -> tuple[float, float]:
        """Level and pack temperature at a time between the steps, linear."""
        after = min(max(bisect_right(self._times_s, at_s), 1), len(self.steps) - 1)
        begin, end = self.steps[after - 1], self.steps[after]
        share = min(max((at_s - begin.at_s) / (end.at_s - begin.at_s), 0.0), 1.0) if end.at_s > begin.at_s else 1.0
        return begin.soc + share * (end.soc - begin.soc), begin.pack_c + share * (end.pack_c - begin.pack_c)

    @cached_property
    def _times_s(self) -> tuple[float, ...]:
        """When the steps end, s: a watched night asks each minute."""
        return tuple(step.at_s for step in self.steps)


def wears(car: Car, pack_per_kwh: float, sessions: Sequence[Session]) -> Array:
    """What each of some sessions wears of the pack, see `Session.wear`: shape (sessions,). All their steps are weighed at once, for the
    law costs as much for one session as for twenty.
    """
    begins = np.cumsum([0, *(len(each.steps) for each in sessions)])
    table = np.concatenate([*(each.table for each in sessions), NO_STEP])
    hours, usable = (table[1:, 0] - table[:-1, 0]) / S_PER_H, car.pack.usable_kwh
    hours[begins[1:] - 1] = 0.0  # from the end of one session to the begin of the next nothing wears
    (soc, pack_c), kw = (table[1:, 1:3] + table[:-1, 1:3]).T / 2, table[1:, 4]
    held = {"held_days": hours / 24.0, "held_c": pack_c, "held_soc": soc}
    put_in = {"charged_kwh": kw * hours, "charge_c": pack_c, "c_rate": kw / usable}
    return np.asarray(np.add.reduceat(wear_cost(car.pack.chemistry, usable, pack_per_kwh, **put_in, **held), begins[:-1]))


def simulate(
    car: Car,
    rate: ChargeRate,
    soc: float,
    limit_soc: float,
    pack_c: float,
    intervals: Sequence[Interval],
    end_s: float,
    ambient_c: Callable[[float], float],
    rates: Sequence[ChargeRate | None] = (),
    step_s: float = CHARGING_STEP_S,
) -> Session:
    """Charge during `intervals` (seconds from now, sorted, disjoint) until `limit_soc`; idle otherwise, to `end_s`. A car at its
    limit starts again with an interval that begins after a pause, while its pack is warm and nothing tapers, and only then.

    The power into the pack is flat to 97 % and falls linearly to 10 % of it at 100 %, in closed form. Below the chemistry's
    threshold the pack heater takes its share first, and on the threshold what keeps the pack there; a pack that takes nothing and
    that nothing warms draws nothing. Charger and pack losses
    warm the pack. Steps are at most five minutes, of waiting half an hour.
    Args: `soc`, `limit_soc` 0 to 1; `pack_c` °C; `ambient_c` gives °C at a second from now; `rates` is what the supply gives in each of
    the intervals (empty: `rate` in all; None: nothing, which is no pause); `step_s` longer than five minutes holds only while neither cold
    nor taper changes the power.
    Raises: OutOfRange for levels outside 0 to 1.
    """
    if not (0 <= soc <= 1 and 0 < limit_soc <= 1):
        raise OutOfRange("Levels must lie between 0 and 100 %.", "soc_now")
    run = Running(car, rate, limit_soc, ambient_c, soc, pack_c=pack_c, step_s=step_s)
    for (start, stop), here in zip(intervals, rates or repeat(rate), strict=False):
        run.wait(start)
        if here is None:
            run.stand(stop)
        else:
            run.draw_from(here)
            run.charge(stop)
    run.wait(end_s)
    return run.session()


@lru_cache(maxsize=128)
def fill_up(
    car: Car, rate: ChargeRate, soc: float, limit_soc: float, pack_c: float, *, air_c: float, longest_h: float = 120.0
) -> Session:
    """Charge without a break at one air temperature until the limit, or for `longest_h`; raises what `simulate` raises."""
    missing_kwh = max(0.0, limit_soc - soc) * car.pack.usable_kwh
    guess_h = min(longest_h, 3.0 + 1.4 * missing_kwh / max(rate.pack_kw, 1e-6))
    done = simulate(car, rate, soc, limit_soc, pack_c, [(0.0, guess_h * S_PER_H)], guess_h * S_PER_H, lambda _: air_c)
    if done.unused_s > 0 or guess_h >= longest_h:
        return done
    return simulate(car, rate, soc, limit_soc, pack_c, [(0.0, longest_h * S_PER_H)], longest_h * S_PER_H, lambda _: air_c)


class Running:
    """The moving state of one simulation, in plain floats: a night is simulated dozens of times before one is chosen.

    `at_s` are seconds from its start; `limit` is the car's own, at which it is `through` until it is told to start anew. Totals in kWh.
    """

    def __init__(
        self,
        car: Car,
        rate: ChargeRate,
        limit: float,
        ambient: Callable[[float], float],
        soc: float,
        *,
        pack_c: float,
        step_s: float,
    ) -> None:
        self.step_s, self.car, self.limit, self.ambient = step_s, car, limit, ambient
        self.at_s, self.soc, self.pack_c = 0.0, soc, pack_c
        self.wall_kwh = self.pack_kwh = self.heating_kwh = self.unused_s = 0.0
        self.through = False
        self.steps = [Step(0.0, soc, pack_c, 0.0, 0.0)]
        self.threshold_c = CHARGE_FROM_C[car.pack.chemistry]
        self.threshold_ohm = resistance_at(self.threshold_c)
        self.heats_w = car.pack.resistance_ohm * (1000 / PACK_VOLTAGE_V) ** 2
        self.capacity_kwh, self.chemistry = car.pack.usable_kwh, car.pack.chemistry
        self.cools_per_s = PARKED_W_PER_K / car.pack.capacity_j_per_k
        self.draw_from(rate)

    def draw_from(self, rate: ChargeRate) -> None:
        """From now on the supply gives this."""
        self.rate, self.flat_kw = rate, rate.into_pack_kw(rate.wall_kw)
        self.loses_w = WASTE_TO_PACK * 1000 * (1 / rate.efficiency - 1)

    def wait(self, until_s: float) -> None:
        """Draw nothing until then: what follows is a new start, for a car at its limit only where it costs no heat and nothing tapers."""
        pauses = until_s - self.at_s > 1e-6
        self.stand(until_s)
        if pauses and self.limit <= TAPER_FROM_SOC and self.pack_c >= self.threshold_c:
            self.through = False

    def stand(self, until_s: float) -> None:
        """Draw nothing until then, and go on as before."""
        while until_s - self.at_s > 1e-6:
            span = min(WAITING_STEP_S, until_s - self.at_s)
            self.pack_c = self._relaxed(self.ambient(self.at_s + span / 2), 0.0, span)
            self._advance(span, 0.0, 0.0, -STANDBY_PER_DAY * span / (24 * S_PER_H))

    def charge(self, until_s: float) -> None:
        """Draw what supply, pack and limit allow until then."""
        while until_s - self.at_s > 1e-6:
            self.through = self.through or self.soc >= self.limit - 1e-9
            if self.through:  # what a car at its limit loses by standing starts no second charge by itself
                self.unused_s += until_s - self.at_s
                return self.stand(until_s)
            heats_alone = self.flat_kw <= self.car.pack.heater_kw
            coarse = (self.pack_c >= self.threshold_c or heats_alone) and self.soc < TAPER_FROM_SOC
            self._charge_step(min(self.step_s if coarse else CHARGING_STEP_S, until_s - self.at_s))

    def session(self) -> Session:
        """What happened so far."""
        return Session(tuple(self.steps), self.wall_kwh, self.pack_kwh, self.heating_kwh, self.unused_s)

    def _charge_step(self, span: float) -> None:
        """One step at the car's power, cut short where the limit, the taper or the chemistry's threshold is reached."""
        if abs(self.pack_c - self.threshold_c) < 1e-9:
            self.pack_c = self.threshold_c
        taper = self.soc >= TAPER_FROM_SOC - 1e-12
        offered_kw = self.flat_kw * (1 - TAPER_SLOPE * (self.soc - TAPER_FROM_SOC) if taper else 1.0)
        outside_c = self.ambient(self.at_s + span / 2)
        heater_kw = 0.0 if self.pack_c > self.threshold_c else self._heater_kw(offered_kw, outside_c)
        into_kw = offered_kw - heater_kw
        if self.pack_c < self.threshold_c:
            into_kw = min(into_kw, charge_limit_kw(self.pack_c, self.chemistry, self.capacity_kwh))
        if into_kw <= 0 and heater_kw <= 0:  # too cold to take anything, and nothing warms it: the car draws no power
            return self.stand(self.at_s + span)
        falls_per_h = TAPER_SLOPE * self.flat_kw / self.capacity_kwh if taper else 0.0
        goal = self.limit if taper else min(self.limit, TAPER_FROM_SOC)
        if into_kw > 0:
            span = min(span, _hours_to(goal - self.soc, into_kw / self.capacity_kwh, falls_per_h) * S_PER_H)
        warms_w = self._waste_w(into_kw) + 1000 * HEATER_TO_PACK * heater_kw
        if self.pack_c != self.threshold_c:
            span = min(span, self._crossing_s(outside_c, warms_w))
        self.pack_c = self._relaxed(outside_c, warms_w, span)
        if abs(self.pack_c - self.threshold_c) < 1e-7:
            self.pack_c = self.threshold_c
        hours = span / S_PER_H
        pack_kwh = into_kw * (-expm1(-falls_per_h * hours) / falls_per_h if falls_per_h > 0 else hours)
        heating_kwh = heater_kw * hours
        wall_kwh = (pack_kwh + heating_kwh) / self.rate.efficiency + self.rate.overhead_kw * hours
        self.wall_kwh, self.pack_kwh = self.wall_kwh + wall_kwh, self.pack_kwh + pack_kwh
        self.heating_kwh += heating_kwh
        self._advance(span, wall_kwh / hours, pack_kwh / hours, pack_kwh / self.capacity_kwh)

    def _heater_kw(self, offered_kw: float, outside_c: float) -> float:
        """Power of the pack heater up to the threshold: all it has below, at the threshold just what keeps it there."""
        most_kw = min(self.car.pack.heater_kw, offered_kw)
        if self.pack_c < self.threshold_c:
            return most_kw
        leak_w = PARKED_W_PER_K * (self.threshold_c - outside_c)
        if leak_w <= self._waste_w(offered_kw):
            return 0.0
        # a·x² + b·x from charging with x kW and 1000·h from the heater with the rest are the leak
        a, b, heat_w = self.heats_w * self.threshold_ohm, self.loses_w, 1000 * HEATER_TO_PACK
        half = (heat_w - b) / 2
        into_kw = (half - sqrt(max(0.0, half**2 - a * (heat_w * offered_kw - leak_w)))) / a
        return min(max(0.0, offered_kw - into_kw), most_kw)

    def _crossing_s(self, outside_c: float, power_w: float) -> float:
        """Seconds until the pack crosses the threshold; inf when it does not."""
        settles_c = outside_c + power_w / PARKED_W_PER_K
        here, there = self.pack_c - settles_c, self.threshold_c - settles_c
        if here * there <= 0 or abs(there) >= abs(here):
            return inf
        return max(1.0, log(here / there) / self.cools_per_s)

    def _relaxed(self, outside_c: float, power_w: float, span: float) -> float:
        """Pack temperature after constant power: `heat.lumped.relax` for one float."""
        settles_c = outside_c + power_w / PARKED_W_PER_K
        return settles_c + (self.pack_c - settles_c) * exp(-span * self.cools_per_s)

    def _waste_w(self, into_kw: float) -> float:
        """Heat that charging itself leaves in the pack: I²R and a share of the charger's loss."""
        ohm = self.threshold_ohm if self.pack_c == self.threshold_c else resistance_at(self.pack_c)
        return into_kw * (self.heats_w * ohm * into_kw + self.loses_w)

    def _advance(self, span: float, wall_kw: float, pack_kw: float, soc_change: float) -> None:
        self.at_s += span
        self.soc += soc_change
        if not 0.0 <= self.soc <= 1.0:
            self.soc = min(1.0, max(0.0, self.soc))
        self.steps.append(Step(self.at_s, self.soc, self.pack_c, wall_kw, pack_kw))


def _hours_to(gain: float, rate_per_h: float, falls_per_h: float) -> float:
    """Hours until a level has gained so much at a rate that falls with it (closed form); inf when it never does."""
    if falls_per_h <= 0:
        return gain / rate_per_h
    left = 1 - gain * falls_per_h / rate_per_h
    return -log(left) / falls_per_h if left > 0 else inf
