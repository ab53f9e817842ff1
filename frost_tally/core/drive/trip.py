"""A day's driving simulated in time, many cases at once.

A day is a sequence of legs, parked time among them. Every case is a row of the same arrays, so that the fair tally can
run all subsets of causes, and the arrival band its draws, in one pass.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..basis import Basis, figure
from ..battery.ageing import cold_factor
from ..battery.cold import charge_limit_kw, regen_acceptance, resistance_factor, usable_fraction
from ..car import (
    CABIN_J_PER_K,
    CABIN_MOVING,
    CABIN_PARKED,
    CABIN_STANDING,
    HEATER_TO_PACK,
    MOVING_W_PER_K,
    PACK_VOLTAGE_V,
    PARKED_W_PER_K,
    STANDBY_PER_DAY,
    Car,
)
from ..errors import OutOfRange
from ..heat import climate
from ..heat.lumped import Held, heated_by, lead_to, relax, warm_and_hold
from ..units import J_PER_KWH, S_PER_H, Array, Ints, Number
from .day import Charge, Drive, Leg, LegEnd, Outcome, Park, Scenarios, Start, Trip
from .leg_power import LegPower, LegPowers
from .road import Conditions, friction_share, road_load

CHUNK_S = figure("trip.longest_chunk", 600.0, "s", Basis.COMMON_PRACTICE, "thermal step; closed form keeps it exact within")
SETTLED_CHUNK_S = figure(
    "trip.longest_settled_chunk", 1800.0, "s", Basis.COMMON_PRACTICE, "the same after the first 40 minutes of a leg"
)
REACHED_K = 1e-6
"""A pack so near a temperature is there: in other company the same day differs by the last digit of its floats."""
UNSETTLED, FIRST = 4, 1 / 3  # steps of ten minutes before longer ones, and the part of the first that is cut off
SHORTEST_S = 1e-6
CHARGE_STEP_S = 300.0
PARTS = ("wheels", "auxiliary", "cabin", "pack_heat", "resistance")


def cases(car: Car, conditions: Conditions, start: Start) -> Scenarios:
    """One case with everything as it is."""
    load = road_load(car, conditions)
    return Scenarios(
        capacity_kwh=car.pack.usable_kwh,
        soc=start.soc,
        pack_c=start.pack_c,
        cabin_c=start.cabin_c,
        ambient_c=conditions.ambient_c,
        mass_kg=load.mass_kg,
        rolling=load.rolling,
        density=load.density,
        drag_area_m2=load.drag_area_m2,
        headwind_mps=load.headwind_mps,
        wind_mps=load.wind_mps,
        style=load.style,
        pack_heat=conditions.heater * conditions.pack_heat,
        efficiency=1.0 / car.factors.base,
        cabin_loss=car.factors.heat,
        withheld=car.factors.cold,
        heater=conditions.heater,
        own=car.factors.own,
        friction=friction_share(car, conditions),
    )


def side_by_side(each: Sequence[Scenarios]) -> Scenarios:
    """One case after another: Scenarios of one each, made into the inputs of one pass."""
    return Scenarios(**{name: np.array([float(getattr(one, name)) for one in each]) for name in Scenarios.__dataclass_fields__})


def simulate(car: Car, trip: Trip, conditions: Conditions, start: Start) -> Outcome:
    """Simulate a day: returns an Outcome with one case.

    Args: legs of 0 km are skipped; temperatures −45 to 50 °C.
    Raises: OutOfRange for a day without driving, or conditions out of range.
    Source: road load of `road`, two lumped temperatures of `heat.lumped`, cold pack of `battery.cold`.
    """
    return run(car, trip, conditions, cases(car, conditions, start))


def run(
    car: Car, trip: Trip, conditions: Conditions, inputs: Scenarios, least_chunks: int = 1, *, sets_out: Ints | None = None
) -> Outcome:
    """Simulate all cases through the same legs, each in at least so many steps; `sets_out` is the leg with which each case begins (all with
    the first when None), on a way of drives only. Raises: OutOfRange for a day without driving.
    """
    if trip.distance_km <= 0:
        raise OutOfRange("A day needs some kilometres.", "km")
    state = _State(car, conditions, inputs, trip.climb_m / (trip.distance_km * 1000.0), least_chunks)
    for i, leg in enumerate(trip.legs):
        match leg:
            case Park():
                state.park(leg)
            case Charge():
                state.charge(leg)
            case Drive(distance_km=km) if km > 0:
                state.drive(leg, 1.0 if sets_out is None else np.asarray(sets_out <= i, dtype=float))
        state.note(leg)
    return state.outcome(trip.distance_km)


class _Step(NamedTuple):
    """One thermal step, per case: energy by part and all that the pack moved and took back in braking (kWh), the square of the braking
    power over its time (W²·s), the pack's mean temperature (°C).
    """

    wheels: Array
    auxiliary: Array
    cabin: Array
    pack_heat: Array
    resistance: Array
    moved_kwh: Array
    braked_kwh: Array
    brake_sq_ws: Array
    mean_c: Array


class _State:
    """Temperatures, level used and energies of all cases while the day goes on."""

    def __init__(self, car: Car, conditions: Conditions, inputs: Scenarios, climb_per_m: float, least_chunks: int) -> None:
        self.car, self.conditions, self.least_chunks = car, conditions, least_chunks
        self.inputs, n = inputs, inputs.count
        self.pack_c, self.cabin_c = (np.full(n, each, dtype=float) for each in (inputs.pack_c, inputs.cabin_c))
        self.start_pack_c = self.pack_c.copy()
        self.asks: Array | None = None  # what a kWh takes of the level at the pack's temperature, while that is known
        self.soc_used, self.loss_w, self.heats = np.zeros(n), np.zeros(n), np.zeros(n, dtype=bool)
        heats_to_c = None if car.pack.drive_heater_kw <= 0 else car.pack.drive_heat_to_c
        power_w = 0.0 if heats_to_c is None else 1000 * HEATER_TO_PACK * car.pack.drive_heater_kw
        self.most_heat_w = power_w * np.broadcast_to(np.asarray(inputs.pack_heat), n)
        self.heater = self.most_heat_w, -273.0 if heats_to_c is None else heats_to_c
        returned = 1.0 - np.broadcast_to(np.asarray(inputs.friction), n)
        self.returned = np.stack([returned, returned**2])
        self.parts = {name: np.zeros(n) for name in PARTS}
        self.powers = LegPowers(car, self.inputs, climb_per_m)
        self.climates: dict[float, climate.Climate] = {}
        self.seconds, self.heat_in_j, self.stood_j, self.worn_kwh = np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n)
        self.held, self.cabin, self.steps = list[Held](), list[climate.CabinStep](), list[_Step]()
        self.km, self.stood_h, self.charged_soc, self.ends = 0.0, 0.0, np.zeros(n), list[LegEnd]()

    def note(self, leg: Leg) -> None:
        """Keep the state after a leg."""
        if isinstance(leg, Drive):
            self.km += leg.distance_km
        else:
            self.stood_h += leg.hours
        hours = self.seconds / S_PER_H + self.stood_h
        self.ends.append(
            LegEnd(
                leg=leg,
                km=self.km,
                hours=hours,
                soc_used=self.soc_used.copy(),
                pack_c=self.pack_c,
                cabin_c=self.cabin_c,
                charged_soc=self.charged_soc.copy(),
                steps=len(self.held),
            )
        )

    def park(self, leg: Park) -> None:
        """Stand: both temperatures relax, the level falls by the idle drain, and by a warm-up from the pack at the end."""
        self._stand(leg.hours, 0.0)
        self.soc_used += self.inputs.standby * STANDBY_PER_DAY * leg.hours / 24.0
        if leg.warm_to_c is not None:
            self._warm_from_pack(leg.warm_to_c, leg.hours * S_PER_H)

    def charge(self, leg: Charge) -> None:
        """Take energy in, in steps of at most five minutes: as much as is offered, as the cold pack takes, and as still fits.

        The pack warms by its resistance. Source: `battery.cold.charge_limit_kw`, resistance as on the road.
        """
        steps = max(1, math.ceil(leg.hours * S_PER_H / CHARGE_STEP_S - 1e-9))
        hours, pack, inputs = leg.hours / steps, self.car.pack, self.inputs
        for _ in range(steps):
            takes_kw = np.array([charge_limit_kw(each, pack.chemistry, pack.usable_kwh) for each in self.pack_c.tolist()])
            room_kwh = np.maximum(leg.to_soc - (inputs.soc - self.soc_used), 0.0) * inputs.capacity_kwh
            into_kw = np.minimum(np.minimum(leg.pack_kw, takes_kw), room_kwh / hours)
            cold = np.where(inputs.cold_pack, resistance_factor(self.pack_c), 1.0)
            loss_w = pack.resistance_ohm * cold * (1000 * into_kw / PACK_VOLTAGE_V) ** 2
            gained = into_kw * hours / np.asarray(inputs.capacity_kwh)
            before = self.pack_c
            self._stand(hours, loss_w)
            self.soc_used, self.charged_soc = self.soc_used - gained, self.charged_soc + gained
            self.worn_kwh += into_kw * hours * (1 + (cold_factor((before + self.pack_c) / 2) - 1) * into_kw / pack.usable_kwh)

    def _stand(self, hours: float, heat_w: Number) -> None:
        """Both temperatures relax towards the air, the pack with a heat of its own."""
        self.asks = None
        inputs, capacity, seconds = self.inputs, self.car.pack.capacity_j_per_k, hours * S_PER_H
        before, heat_j = self.pack_c, np.asarray(heat_w) * seconds
        self.pack_c = np.asarray(
            relax(before, inputs.ambient_c, heat_w, conductance=PARKED_W_PER_K, capacity=capacity, seconds=seconds)
        )
        self.heat_in_j += heat_j
        self.stood_j += capacity * (before - self.pack_c) + heat_j
        self.cabin_c = np.asarray(
            relax(self.cabin_c, inputs.ambient_c, 0.0, conductance=CABIN_PARKED, capacity=CABIN_J_PER_K, seconds=seconds)
        )

    def _warm_from_pack(self, to_c: float, longest_s: float) -> None:
        """Warm the cabin so that it is ready when the parked time ends, unplugged."""
        inputs, cabin = self.inputs, self.car.cabin
        heat_w = 1000 * cabin.heater_kw
        lead_s = np.minimum(lead_to(to_c - self.cabin_c, heat_w, CABIN_PARKED, CABIN_J_PER_K), longest_s)
        lead_s = lead_s * np.asarray(inputs.heater) * np.asarray(inputs.climate_on) * np.asarray(inputs.warmed_again)
        self.cabin_c = self.cabin_c + heated_by(heat_w, CABIN_PARKED, CABIN_J_PER_K, lead_s)
        kwh = inputs.own * heat_w * lead_s / climate.coefficient_of_performance(inputs.ambient_c, cabin.heat_pump) / 3.6e6
        self.parts["cabin"] += kwh
        self.worn_kwh += kwh
        self.soc_used += kwh / (np.asarray(inputs.capacity_kwh) * self._usable())

    def _usable(self, pack_c: Array | None = None) -> Array:
        """Share of the capacity that the pack gives at its temperature, or at another."""
        inputs, at_c = self.inputs, self.pack_c if pack_c is None else pack_c
        return np.asarray(1 - inputs.cold_pack * inputs.withheld * (1 - usable_fraction(at_c, self.car.pack.chemistry)))

    def _drawn(self, span: Array, steady_kwh: Array, heater_kwh: Array) -> Array:
        """What a step takes of the level, as kWh at 25 °C: each part of it by the share that the pack gives where it was drawn, while the
        heater warms the pack and while it holds it.
        """
        (begin_c, _, _, _, _, first_s), (middle_c, *_) = self.held[-1].phases
        begin = 1 / self._usable(np.asarray(begin_c)) if self.asks is None else self.asks
        self.asks = end = 1 / self._usable()  # where this step ends the next one begins
        unheated = np.asarray(steady_kwh * (begin + end) / 2)
        if not heater_kwh.any():
            return unheated
        middle = 1 / self._usable(np.asarray(middle_c))
        warming, holding = (begin + middle) / 2, (middle + end) / 2
        first = first_s / span
        heater = np.where(first_s > 0, warming, holding) * heater_kwh
        heated = steady_kwh * (first * warming + (1 - first) * holding) + heater
        # a day must not come out otherwise because another one that it is driven with heats its pack
        return np.where(heater_kwh > 0, heated, unheated)

    def _loss_w(self, pack_c: Array, power_sq: Array) -> Array:
        """What the pack's resistance turns into heat at a temperature, W, by the mean square of its power (W²)."""
        cold = 1.0 + np.asarray(self.inputs.cold_pack) * (resistance_factor(pack_c) - 1.0)
        return np.asarray(self.car.pack.resistance_ohm * cold * power_sq / PACK_VOLTAGE_V**2)

    def _half_way(self, span: Array) -> Array:
        """The pack's temperature half way through a step, with the losses of the step before (of a leg's first: those of pushing alone)."""
        pack, inputs, before = self.car.pack, self.inputs, self.pack_c
        heater_w, target_c = self.heater
        warms = (before < target_c + REACHED_K) & (heater_w > 0)  # where it is reached it is held
        after = relax(
            before,
            inputs.ambient_c,
            self.loss_w + heater_w * warms,
            conductance=MOVING_W_PER_K,
            capacity=pack.capacity_j_per_k,
            seconds=span / 2,
        )
        return np.where(warms, np.minimum(after, target_c), after)

    def _switch_heat(self) -> None:
        """What the pack heater gives from now on (W of heat), and until which temperature (°C): it begins where the pack is cold and ends
        where it is warm; between two temperatures what has begun goes on. Where both are one it is held there.
        """
        pack, to_c = self.car.pack, self.car.pack.drive_heat_to_c
        if to_c is not None and pack.drive_heater_kw > 0 and pack.drive_heat_below_c < to_c:
            self.heats = (self.pack_c < pack.drive_heat_below_c) | (self.heats & (self.pack_c < to_c - REACHED_K))
            self.heater = self.most_heat_w * self.heats, to_c

    def drive(self, leg: Drive, under_way: Number = 1.0) -> None:
        """Drive a leg in chunks, in the cases that are under way."""
        power = self.powers.of(leg)
        stretch = np.asarray(getattr(self.inputs, f"{leg.road.value}_stretch")) * under_way
        seconds = power.seconds * stretch
        self.loss_w = self._loss_w(self.pack_c, power.push_sq)
        # by the leg's own time: a day must not come out otherwise for the company that it is driven in
        for share in _shares(power.plain_s * float(np.max(stretch)), self.least_chunks):
            span = np.maximum(seconds * share, SHORTEST_S)
            self._chunk(power, span)
            self.seconds = self.seconds + span

    def _chunk(self, power: LegPower, span: Array) -> None:
        """One thermal step of a leg."""
        self._switch_heat()
        inputs, car, half_c = self.inputs, self.car, self._half_way(span)
        # what the pack resists and refuses is taken half way through the step: at its cold beginning it is too much
        refused = 1.0 - regen_acceptance(half_c, np.maximum(inputs.soc - self.soc_used, 0.0))
        accepted = 1.0 - np.asarray(inputs.regen_limit) * refused
        brake_w, brake_sq = power.braking(accepted) * self.returned
        wheels_w = power.push_w - brake_w
        cabin_kwh = self._cabin(span, power.moving)
        steady_w = 1000 * car.drivetrain.auxiliary_kw + cabin_kwh * 1000 * S_PER_H / span
        square = power.push_sq + brake_sq + 2 * wheels_w * steady_w + steady_w**2
        loss_w = self._loss_w(half_c, square)
        before_c, self.loss_w = self.pack_c, loss_w
        heater_kwh = car.factors.pack_heat * self._pack(span, loss_w)
        wheels_kwh, loss_kwh = wheels_w * span / J_PER_KWH, loss_w * span / J_PER_KWH
        auxiliary_kwh = car.drivetrain.auxiliary_kw * span / S_PER_H
        steady_kwh = wheels_kwh + loss_kwh + cabin_kwh + auxiliary_kwh
        moved_kwh = inputs.own * (steady_kwh + heater_kwh)
        self.soc_used = self.soc_used + inputs.own * self._drawn(span, steady_kwh, heater_kwh) / inputs.capacity_kwh
        step = _Step(
            wheels=wheels_kwh,
            auxiliary=auxiliary_kwh,
            cabin=cabin_kwh,
            pack_heat=heater_kwh,
            resistance=loss_kwh,
            moved_kwh=moved_kwh,
            braked_kwh=brake_w * span / J_PER_KWH,
            brake_sq_ws=brake_sq * span,
            mean_c=(before_c + self.pack_c) / 2,
        )
        self.steps.append(step)

    def _cabin(self, span: Array, moving: float) -> Array:
        """Hold the cabin, which loses less while the car stands in traffic; returns electric kWh, 0 in cases without climate."""
        if self.conditions.cabin_set_c is None:
            return np.zeros_like(span)
        if moving not in self.climates:
            inputs, cabin = self.inputs, self.car.cabin
            self.climates[moving] = climate.Climate(
                inputs.ambient_c,
                self.conditions.cabin_set_c - np.asarray(inputs.cooler_k),
                1000 * cabin.heater_kw * np.asarray(inputs.heater),
                cabin.heat_pump,
                (CABIN_STANDING + (CABIN_MOVING - CABIN_STANDING) * moving) * np.asarray(inputs.cabin_loss),
                capacity=CABIN_J_PER_K,
                seats=self.conditions.seats + np.asarray(inputs.seats),
            )
        done = self.climates[moving].step(self.cabin_c, span)
        self.cabin_c = done.end_c
        self.cabin.append(done)
        return done.electric_kwh * self.inputs.climate_on

    def _pack(self, span: Array, loss_w: Array) -> Array:
        """Pack temperature with its own losses and, below the car's threshold, its heater; returns heater kWh."""
        pack, inputs = self.car.pack, self.inputs
        heater_w, target_c = self.heater
        held = warm_and_hold(
            self.pack_c,
            inputs.ambient_c,
            target_c,
            heater_w=heater_w,
            other_w=loss_w,
            conductance=MOVING_W_PER_K,
            capacity=pack.capacity_j_per_k,
            seconds=span,
        )
        self.pack_c = held.end_c
        self.held.append(held)
        return held.heater_j / HEATER_TO_PACK / 3.6e6

    def outcome(self, distance_km: float) -> Outcome:
        """All that was added up, the steps of the drives at once."""
        all_steps = _Step(*(np.array(each) for each in zip(*self.steps, strict=True)))
        for name in PARTS:
            self.parts[name] += self.inputs.own * getattr(all_steps, name).sum(axis=0)
        cold_kwh = (cold_factor(all_steps.mean_c) - 1) * all_steps.brake_sq_ws / (1000 * self.car.pack.usable_kwh) / J_PER_KWH
        self.worn_kwh += all_steps.moved_kwh.sum(axis=0) + self.inputs.own * (2 * all_steps.braked_kwh + cold_kwh).sum(axis=0)
        self.heat_in_j += sum(step.heater_j for step in self.held) + J_PER_KWH * all_steps.resistance.sum(axis=0)
        stored = self.car.pack.capacity_j_per_k * (self.pack_c - self.start_pack_c)
        return Outcome(
            distance_km=distance_km,
            soc_used=self.soc_used,
            parts_kwh=self.parts,
            end_pack_c=self.pack_c,
            end_cabin_c=self.cabin_c,
            hours=self.seconds / S_PER_H,
            stored_j=stored,
            heat_in_j=self.heat_in_j,
            stood_j=self.stood_j,
            held=tuple(self.held),
            cabin=tuple(self.cabin),
            ends=tuple(self.ends),
            worn_kwh=self.worn_kwh,
        )


def _shares(seconds: float, least: int) -> list[float]:
    """Shares of a leg's time for its thermal steps: at first at most ten minutes each, half an hour once cabin and pack have settled; the
    first is cut once more, for in it a soaked pack changes most (every leg's: a stage may set out with any). More steps change
    next to nothing.
    """
    equal = max(least, math.ceil(seconds / CHUNK_S))
    if equal <= max(UNSETTLED, least):
        shares = [1.0 / equal] * equal
    else:
        first = CHUNK_S / seconds
        rest = 1.0 - UNSETTLED * first
        later = math.ceil(rest * seconds / SETTLED_CHUNK_S)
        shares = [first] * UNSETTLED + [rest / later] * later
    return [FIRST * shares[0], (1 - FIRST) * shares[0], *shares[1:]]
