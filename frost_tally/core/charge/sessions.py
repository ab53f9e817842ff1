"""Many charging sessions at once: what `session.simulate` does for one, in rows of arrays."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..battery.ageing import wear_cost
from ..battery.cold import CHARGE_FROM_C, charge_limits_kw, resistance_at, resistance_factor
from ..car import HEATER_TO_PACK, PACK_VOLTAGE_V, PARKED_W_PER_K, STANDBY_PER_DAY, Car
from ..units import S_PER_H, Array, Ints, Number
from .session import CHARGING_STEP_S, TAPER_FROM_SOC, TAPER_SLOPE, WAITING_STEP_S, WASTE_TO_PACK
from .supply import ChargeRate

SAME_S, SAME_SOC, SAME_K, NO_KW = 1e-6, 1e-9, 1e-9, 1e-12
Drawn = tuple[Array, Array, Ints]
"""A span of each row: from and until (s), and the number of the rate that it draws at (−1: none, but no pause); all of shape (rows,)."""


@dataclass(frozen=True, kw_only=True)
class Sessions:
    """The courses of some sessions: `at_s`, `soc` and `pack_c` of shape (steps + 1, rows), powers of shape (steps, rows). A row that is
    through before the others stands still at its end.
    """

    car: Car
    at_s: Array
    soc: Array
    pack_c: Array
    wall_kw: Array
    pack_kw: Array

    @property
    def hours(self) -> Array:
        """Length of each step, h."""
        return np.asarray(np.diff(self.at_s, axis=0) / S_PER_H)

    @property
    def highest_soc(self) -> Array:
        """The highest level of each row, 0 to 1."""
        return np.asarray(self.soc.max(axis=0))

    @property
    def done_s(self) -> Array:
        """When each last drew, s; 0 for never."""
        return np.asarray(np.where(self.wall_kw > 0, self.at_s[1:], 0.0).max(axis=0, initial=0.0))

    def reached_s(self, soc: Number) -> Array:
        """When each first comes to a level, s; inf for never."""
        return np.where(self.highest_soc >= soc, _course_where(self.at_s, self.soc, soc), np.inf)

    def soc_at(self, at_s: float) -> Array:
        """The level of each at a time (s) not after its end, linear between the steps."""
        return _course_where(self.soc, self.at_s, at_s - SAME_S)

    @property
    def wall_kwh(self) -> Array:
        """Energy of each at the wall."""
        return np.asarray((self.wall_kw * self.hours).sum(axis=0))

    @property
    def pack_kwh(self) -> Array:
        """Energy of each into the pack."""
        return np.asarray((self.pack_kw * self.hours).sum(axis=0))

    def bill(self, paid: Callable[[Array], Array]) -> Array:
        """Money of each row: `paid` is what a kW drawn from the start until some times (s, shape (…, rows)) costs."""
        found = np.zeros(self.at_s.shape[1])
        for step in np.flatnonzero(self.wall_kw.any(axis=1)):  # most steps are waiting
            begin, end = paid(self.at_s[step : step + 2])
            found += self.wall_kw[step] * (end - begin)
        return found

    def wear(self, pack_per_kwh: float) -> Array:
        """What each wears of the pack, money: see `Session.wear`."""
        pack_c, soc = (self.pack_c[1:] + self.pack_c[:-1]) / 2, (self.soc[1:] + self.soc[:-1]) / 2
        put_in = {"charged_kwh": self.pack_kw * self.hours, "charge_c": pack_c, "c_rate": self.pack_kw / self.car.pack.usable_kwh}
        held = {"held_days": self.hours / 24.0, "held_c": pack_c, "held_soc": soc}
        pack = self.car.pack
        return np.asarray(wear_cost(pack.chemistry, pack.usable_kwh, pack_per_kwh, **put_in, **held).sum(axis=0))


def _course_where(course: Array, by: Array, value: Number) -> Array:
    """A course of each row, shape (steps + 1, rows), where another of them first comes to a value, linear between the steps."""
    first, row = np.maximum(np.argmax(by >= value, axis=0), 1), np.arange(by.shape[1])
    before, after = by[first - 1, row], by[first, row]
    part = np.clip((value - before) / np.maximum(after - before, 1e-12), 0.0, 1.0)
    return np.asarray(course[first - 1, row] + part * (course[first, row] - course[first - 1, row]))


def simulate_all(
    car: Car,
    soc: Number,
    limit_soc: Number,
    *,
    pack_c: Number,
    rates: Sequence[ChargeRate],
    drawn: Sequence[Drawn],
    end_s: Number,
    air_c: Callable[[Ints, Array], Array],
    step_s: float = CHARGING_STEP_S,
    wait_s: float = WAITING_STEP_S,
) -> Sessions:
    """`session.simulate` for rows: each draws in the spans of `drawn`, one after the other, and waits between them and until `end_s`.

    `soc` and `pack_c` are those at 0 s, and with `limit_soc` for all rows or of shape (rows,); `air_c` gives the °C around some rows
    (their numbers) at a time of each (s). The same steps and the same closed forms as for one session.
    """
    rows = len(np.asarray(end_s)) if np.ndim(end_s) else len(drawn[0][0])
    limit_soc, soc, pack_c = (np.full(rows, each, dtype=float) for each in (limit_soc, soc, pack_c))
    run = _Rows(car, limit_soc, air_c, soc, pack_c, step_s, wait_s)
    given = np.array([(0.0, 0.0, 1.0, 0.0), *map(_given, rates)]).T
    for from_s, until_s, which in drawn:
        run.wait(from_s)
        run.charge(until_s, given[:, which + 1])
    run.wait(np.full(rows, end_s))
    steps = run.steps
    at_s, soc_at, pack_at, wall_kw, pack_kw = (np.array(column) for column in zip(*steps, strict=True))
    return Sessions(car=car, at_s=at_s, soc=soc_at, pack_c=pack_at, wall_kw=wall_kw[1:], pack_kw=pack_kw[1:])


class _Rows:
    """The moving state of all rows: `session.Running` in arrays; each row takes the step that it would take alone."""

    def __init__(
        self,
        car: Car,
        limit_soc: Array,
        air_c: Callable[[Ints, Array], Array],
        soc: Array,
        pack_c: Array,
        step_s: float,
        wait_s: float,
    ) -> None:
        self.wait_s = wait_s
        self.step_s, self.car, self.limit, self.air_c, self.soc, self.pack_c = step_s, car, limit_soc, air_c, soc, pack_c
        self.at_s, self.none, self.through = np.zeros(len(soc)), np.zeros(len(soc)), np.zeros(len(soc), dtype=bool)
        self.every = np.arange(len(soc))
        self.steps = [(self.at_s, soc, pack_c, self.none, self.none)]
        self.threshold_c, self.capacity_kwh = CHARGE_FROM_C[car.pack.chemistry], car.pack.usable_kwh
        self.heats_w = car.pack.resistance_ohm * (1000 / PACK_VOLTAGE_V) ** 2
        self.cools_per_s = PARKED_W_PER_K / car.pack.capacity_j_per_k

    def wait(self, until_s: Array) -> None:
        """See `Running.wait`."""
        pauses = (until_s - self.at_s > SAME_S) & (self.limit <= TAPER_FROM_SOC)
        self.stand(until_s)
        self.through &= ~(pauses & (self.pack_c >= self.threshold_c))

    def stand(self, until_s: Array) -> None:
        """See `Running.stand`."""
        while (left_s := until_s - self.at_s).max(initial=0.0) > SAME_S:
            span_s = np.minimum(np.maximum(left_s, 0.0), self.wait_s)
            outside_c = self.air_c(self.every, self.at_s + span_s / 2)
            soc = np.maximum(0.0, self.soc - STANDBY_PER_DAY * span_s / (24 * S_PER_H))
            self._advance(self.at_s + span_s, soc, self._relaxed(self.pack_c, outside_c, 0.0, span_s), self.none, self.none)

    def charge(self, until_s: Array, given: Array) -> None:
        """Draw until a time where something is given (see `_given`); a row that was full only stands."""
        able = np.flatnonzero(given[0] > 0)
        while True:
            self.through |= self.soc >= self.limit - SAME_SOC
            rows = able = able[~self.through[able] & (until_s[able] - self.at_s[able] > SAME_S)]
            if not rows.size:
                return self.stand(until_s)
            steady = (self.pack_c[rows] >= self.threshold_c) | (given[0, rows] <= self.car.pack.heater_kw)
            coarse = steady & (self.soc[rows] < TAPER_FROM_SOC)
            longest_s = np.where(coarse, self.step_s, CHARGING_STEP_S)
            self._charge_step(rows, np.minimum(longest_s, (until_s - self.at_s)[rows]), *given[:, rows])

    def _charge_step(
        self, rows: Ints, span_s: Array, flat_kw: Array, loses_w: Array, efficiency: Array, overhead_kw: Array
    ) -> None:
        """`Running._charge_step` for some rows; the others stand still."""
        soc, pack_c, threshold_c, capacity = self.soc[rows], self.pack_c[rows], self.threshold_c, self.capacity_kwh
        # a row that stood still while others waited is rounded off the threshold, and would heat on for a whole step
        pack_c = np.where(np.abs(pack_c - threshold_c) < SAME_K, threshold_c, pack_c)
        taper, cold, on = soc >= TAPER_FROM_SOC - 1e-12, pack_c < threshold_c, pack_c == threshold_c
        # Most steps have no taper, and many no cold: what those alone need is left out then.
        some_taper, some_cold = bool(taper.any()), bool(cold.any())
        offered_kw = np.where(taper, flat_kw * (1 - TAPER_SLOPE * (soc - TAPER_FROM_SOC)), flat_kw) if some_taper else flat_kw
        outside_c = self.air_c(rows, self.at_s[rows] + span_s / 2)
        heater_kw = np.minimum(self.car.pack.heater_kw, offered_kw) * cold
        if on.any():
            heater_kw[on] = self._holds_kw(offered_kw[on], outside_c[on], loses_w[on])
        into_kw = offered_kw - heater_kw
        if some_cold:
            into_kw = np.minimum(into_kw, charge_limits_kw(pack_c, self.car.pack.chemistry, capacity))
            draws = (into_kw > 0) | (heater_kw > 0)
            into_kw = into_kw * draws
        goal = np.minimum(self.limit[rows], np.where(taper, 1.0, TAPER_FROM_SOC))
        falls_per_h = TAPER_SLOPE * flat_kw / capacity * taper
        full_h = (goal - soc) * capacity / np.maximum(into_kw, NO_KW)
        span_s = np.minimum(span_s, S_PER_H * (_falling_h(full_h, falls_per_h) if some_taper else full_h))
        warms_w = into_kw * (self.heats_w * resistance_factor(pack_c) * into_kw + loses_w) + 1000 * HEATER_TO_PACK * heater_kw
        if not on.all():
            span_s = np.minimum(span_s, self._crossing_s(pack_c, outside_c, warms_w))
        pack_c = self._relaxed(pack_c, outside_c, warms_w, span_s)
        pack_c = np.where(np.abs(pack_c - threshold_c) < 1e-7, threshold_c, pack_c)
        hours = span_s / S_PER_H
        pack_kw = into_kw
        if some_taper:
            fallen = np.maximum(falls_per_h * hours, 1e-12)
            pack_kw = into_kw * np.where(taper, -np.expm1(-fallen) / fallen, 1.0)
        wall_kw, gained = (pack_kw + heater_kw) / efficiency + overhead_kw, pack_kw * hours / capacity
        if some_cold:  # too cold to take anything, and nothing warms it: the car draws no power
            wall_kw, gained = wall_kw * draws, np.where(draws, gained, -STANDBY_PER_DAY * hours / 24.0)
        soc = np.minimum(1.0, np.maximum(0.0, soc + gained))
        self._advance(
            self._among(rows, self.at_s[rows] + span_s, self.at_s), self._among(rows, soc, self.soc),
            self._among(rows, pack_c, self.pack_c), self._among(rows, wall_kw, self.none), self._among(rows, pack_kw, self.none),
        )  # fmt: skip

    def _among(self, rows: Ints, values: Array, others: Array) -> Array:
        """Values of some rows among those of the others."""
        if len(rows) == len(others):
            return values
        found = others.copy()
        found[rows] = values
        return found

    def _holds_kw(self, offered_kw: Array, outside_c: Array, loses_w: Array) -> Array:
        """`Running._heater_kw` on the threshold."""
        leak_w = PARKED_W_PER_K * (self.threshold_c - outside_c)
        a, heat_w = self.heats_w * resistance_at(self.threshold_c), 1000 * HEATER_TO_PACK
        half = (heat_w - loses_w) / 2
        into_kw = (half - np.sqrt(np.maximum(0.0, half**2 - a * (heat_w * offered_kw - leak_w)))) / a
        needed = leak_w > offered_kw * (a * offered_kw + loses_w)
        return np.where(needed, np.clip(offered_kw - into_kw, 0.0, np.minimum(self.car.pack.heater_kw, offered_kw)), 0.0)

    def _crossing_s(self, pack_c: Array, outside_c: Array, power_w: Array) -> Array:
        """`Running._crossing_s`."""
        settles_c = outside_c + power_w / PARKED_W_PER_K
        here, there = pack_c - settles_c, self.threshold_c - settles_c
        never = (np.abs(pack_c - self.threshold_c) < SAME_K) | (here * there <= 0) | (np.abs(there) >= np.abs(here))
        ratio = np.where(never, 1.0, here) / np.where(never, 1.0, there)
        return np.where(never, np.inf, np.maximum(1.0, np.log(ratio) / self.cools_per_s))

    def _relaxed(self, pack_c: Array, outside_c: Array, power_w: Number, span_s: Array) -> Array:
        settles_c = outside_c + power_w / PARKED_W_PER_K
        return np.asarray(settles_c + (pack_c - settles_c) * np.exp(-span_s * self.cools_per_s))

    def _advance(self, at_s: Array, soc: Array, pack_c: Array, wall_kw: Array, pack_kw: Array) -> None:
        self.at_s, self.soc, self.pack_c = at_s, soc, pack_c
        self.steps.append((at_s, soc, pack_c, wall_kw, pack_kw))


def _given(rate: ChargeRate) -> tuple[float, float, float, float]:
    """What a supply gives: power into the pack (kW), the charger's heat in the pack (W for each kW), efficiency and overhead (kW)."""
    return rate.into_pack_kw(rate.wall_kw), WASTE_TO_PACK * 1000 * (1 / rate.efficiency - 1), rate.efficiency, rate.overhead_kw


def _falling_h(flat_h: Array, falls_per_h: Array) -> Array:
    """Hours until as much has gone in as would in some hours at the first power, where that falls with what went in (closed form)."""
    left = 1 - flat_h * falls_per_h
    falling = np.where(left > 0, -np.log(np.maximum(left, 1e-300)) / np.maximum(falls_per_h, 1e-12), np.inf)
    return np.where(falls_per_h > 0, falling, flat_h)
