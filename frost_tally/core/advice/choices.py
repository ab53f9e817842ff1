"""The five choices before a departure, each driven through the whole day and weighed in money."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..battery.cold import CHARGE_FROM_C, regen_acceptance
from ..car import CABIN_J_PER_K, CABIN_MOVING, CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, Preheats
from ..charge.night import NightPlan
from ..drive.day import Outcome, Park, Scenarios, Start, Trip
from ..drive.outing import Outing
from ..drive.road import SEAT_AND_WHEEL, Conditions
from ..drive.trip import cases, run
from ..heat.lumped import heated_by, lead_to, missing_ks, relax, warm_and_hold
from ..heat.warm import WarmUpChoice
from ..units import J_PER_KWH, S_PER_H, Array, Flags
from ..why import NOTHING_TO_SAY, Why, why
from .worth import BEARABLE_KMIN, CAUTIOUS, COAT_MIN, COMFORT_C, DAY_DOUBT, SCREENS_MIN, SEATS_K, Option, Taken, Worth

SHORTEST_KM, LONGEST_KM, PLACES, FINER = 1.0, 250.0, 33, 8
OUT_PIECES = 16


@dataclass(frozen=True)
class Waiting:
    """The car before its way home: hours since departure, pack and cabin (°C), and the level that the whole day takes without and with
    the cabin warmed from the pack once more.
    """

    hours: float
    pack_c: float
    cabin_c: float
    soc: float
    warmed_soc: float


@dataclass(frozen=True)
class Driven:
    """What every choice took: on the asked day, and on days of other lengths (km of one trip); and how the car waits to go home."""

    asked: Taken
    km: Array
    others: Taken
    home: Mapping[WarmUpChoice, Waiting]
    out: "Course"


@dataclass(frozen=True)
class Course:
    """Temperatures (°C) at seconds from departure (negative before it): arrays of one shape, times first."""

    seconds: Array
    pack_c: Array
    cabin_c: Array


class ChoiceDay:
    """The day after each night, all choices as cases of one pass."""

    def __init__(
        self,
        plans: Mapping[WarmUpChoice, NightPlan],
        conditions: Conditions,
        need_soc: float,
        worth: Worth,
        outdoors: bool = False,
    ) -> None:
        self.plans, self.conditions, self.need_soc, self.worth = plans, conditions, need_soc, worth
        self.request = plans[WarmUpChoice.NOTHING].request
        self.car = self.request.car
        self.starts = [Start.after(p.soc_departure, p.warm.pack_c, p.warm.cabin_c) for p in plans.values()]
        self.night_worn_kwh = np.array([each.session.worn_kwh(self.car) + each.warm.pack_kwh for each in plans.values()])
        plugged = self.request.plugged
        self.from_pack_kwh = np.array([each.warm.pack_kwh if plugged else 0.0 for each in plans.values()])
        self.warm_pack = list(plans).index(WarmUpChoice.CABIN_AND_PACK)
        leaves_c = self.request.ambient_c(self.request.departure)
        scraping = SCREENS_MIN * (COMFORT_C - leaves_c) if outdoors and leaves_c < 0 else 0.0
        self.scraping_kmin = np.array([0.0 if choice.warms_cabin else scraping for choice in plans])
        self.seats = np.array([choice is WarmUpChoice.SEATS for choice in plans])

    def _reason(self, choice: WarmUpChoice, night: NightPlan, cold_kmin: float, driven_min: float) -> Why:
        """Why a choice cannot be had, or is not to be had with so much cold on a trip of so long; nothing when it can."""
        pack = self.car.pack
        if choice is WarmUpChoice.SEATS:
            coat = driven_min > COAT_MIN and self.conditions.ambient_c < COMFORT_C
            if cold_kmin > BEARABLE_KMIN:
                return why("too_cold")
            return why("in_a_coat", minutes=driven_min) if coat else NOTHING_TO_SAY
        if choice is WarmUpChoice.CABIN_AND_PACK and (pack.preheats is not Preheats.YES or pack.preheater_kw <= 0):
            return night.warm.reason
        if choice is WarmUpChoice.LATE and not night.blocks:
            return why("nothing_to_charge")
        return NOTHING_TO_SAY

    def cases(self, starts: Sequence[Start], repeats: int = 1) -> Scenarios:
        """A case for each choice, `repeats` times over: choices vary fastest."""
        base = cases(self.car, self.conditions, starts[0])
        seats = self.seats.astype(float)
        columns = {
            "soc": np.array([each.soc for each in starts]),
            "pack_c": np.array([each.pack_c for each in starts]),
            "cabin_c": np.array([each.cabin_c for each in starts]),
            "heater": 1.0 - seats,
            "pack_heat": self.conditions.pack_heat * (1.0 - seats),
            "seats": SEAT_AND_WHEEL * seats,
        }
        return replace(base, **{name: np.tile(column, repeats) for name, column in columns.items()})

    def _heat_kwh(self, outcome: Outcome) -> Array:
        """Electricity that the next charge takes to warm the pack that a day leaves, waiting for the hour at which tonight's began."""
        ask, night, pack = self.request, self.plans[WarmUpChoice.NOTHING], self.car.pack
        begins = night.blocks[0].start if night.blocks else ask.plug_in
        away_h = (ask.departure - begins).total_seconds() / S_PER_H + np.asarray(outcome.ends[-1].hours)
        waits_s = S_PER_H * np.maximum(24.0 - away_h, 0.0)
        meets_c = relax(
            outcome.end_pack_c,
            self.conditions.ambient_c,
            0.0,
            conductance=PARKED_W_PER_K,
            capacity=pack.capacity_j_per_k,
            seconds=waits_s,
        )
        missing_k = np.maximum(CHARGE_FROM_C[pack.chemistry] - meets_c, 0.0) if pack.heater_kw > 0 else np.zeros_like(meets_c)
        return np.asarray(missing_k * pack.capacity_j_per_k / J_PER_KWH / HEATER_TO_PACK)

    def taken(self, outcome: Outcome, again: Array) -> Taken:
        """What the cases took; their choices vary fastest."""
        cold_min, cold_kmin = self.cold(outcome, again)
        back_kwh, driven_min = outcome.energy_kwh + self._heat_kwh(outcome), 60.0 * outcome.hours
        columns = {"soc": outcome.soc_used, "back_kwh": back_kwh, "worn_kwh": outcome.worn_kwh, "cold_min": cold_min}
        columns |= {"cold_kmin": cold_kmin, "driven_min": driven_min}
        return Taken(**{name: np.reshape(each, (-1, len(self.plans))) for name, each in columns.items()})

    def scores(self, taken: Taken, supplied: bool = False) -> Mapping[str, Array]:
        """Money against doing nothing, by part: arrays of shape (days, choices).

        What is kept counts as energy, for what the cold withholds comes back with warmth; what is missing counts as level.
        `supplied`: as if the wall, at the price of the last hour, gave the warm-ups also what a weak outlet takes from the pack.
        """
        kwh, worth = self.car.pack.usable_kwh, self.worth
        begin, bills = np.array([each.soc for each in self.starts]), np.array([each.cost for each in self.plans.values()])
        if supplied:
            last_price = self.plans[WarmUpChoice.NOTHING].prices[-1].price_per_kwh
            begin, bills = (
                begin + self.from_pack_kwh / kwh,
                bills + self.from_pack_kwh / self.request.rate.efficiency * last_price,
            )
        cautious = begin - taken.soc - CAUTIOUS * DAY_DOUBT * taken.soc[:, :1]
        parts = {
            "night": np.tile(bills, (len(taken.soc), 1)),
            "level": -worth.in_pack * (kwh * begin - taken.back_kwh),
            "scarce": max(0.0, worth.on_the_way - worth.in_pack) * kwh * np.maximum(self.need_soc - cautious, 0.0),
            "wear": worth.wear * (self.night_worn_kwh + taken.worn_kwh),
            "comfort": worth.comfort * taken.cold_kmin,
        }
        return {name: each - each[:, :1] for name, each in parts.items()}

    def pack_gap(self, taken: Taken, ruled_out: Flags) -> tuple[Array, Array]:
        """What a warm pack costs more than the best of the others, and the same as if the wall gave all heat: shape (days,).

        Heat out of the pack is never better than the same heat from the wall: a warm pack pays where it does in both.
        """
        gaps = []
        for supplied in (False, True) if self.from_pack_kwh[self.warm_pack] > 0 else (False,):
            total = np.where(ruled_out, np.inf, np.sum(list(self.scores(taken, supplied).values()), axis=0))
            gaps.append(total[:, self.warm_pack] - np.delete(total, self.warm_pack, axis=1).min(axis=1))
        return gaps[0], gaps[-1]

    def driven(self, outing: Outing) -> Driven:
        """Every choice over the asked trip, without and with the cabin warmed for the way home, and over trips of `PLACES` lengths as
        asked, in one pass.
        """
        set_c, asked, count = self.conditions.cabin_set_c, float(outing.warm_home_c is not None), len(self.plans)
        km = np.array([outing.km, outing.km, *np.geomspace(SHORTEST_KM, LONGEST_KM, PLACES)])
        again = np.repeat([0.0, 1.0, *[asked] * PLACES], count)
        stretch = {f"{road.value}_stretch": np.repeat(each, count) for road, each in outing.roads(km).items()}
        trip = outing.unit_trip(set_c if outing.warm_home_c is None else outing.warm_home_c)
        outcome = run(self.car, trip, self.conditions, replace(self.cases(self.starts, len(km)), warmed_again=again, **stretch))
        taken, day = self.taken(outcome, again), int(asked)
        stood = next((end for end in outcome.ends if isinstance(end.leg, Park)), None)
        waits = [] if stood is None else np.column_stack([stood.hours, stood.pack_c, stood.cabin_c])[:count].tolist()
        both = taken.soc[:2].T.tolist()
        home = {choice: Waiting(*wait, *socs) for choice, wait, socs in zip(self.plans, waits, both, strict=False)}
        out = self._out(outcome, slice(day * count, (day + 1) * count))
        return Driven(taken.rows(slice(day, day + 1)), km[2:], taken.rows(slice(2, None)), home, out)

    def asked_on(self, trip: Trip, warmed_again: bool) -> Taken:
        """Every choice over a day as it is, as the rooms that plan for it drive it; `warmed_again`: the cabin for later trips, too."""
        again = np.full(len(self.plans), float(warmed_again))
        outcome = run(self.car, trip, self.conditions, replace(self.cases(self.starts), warmed_again=again))
        return self.taken(outcome, again)

    def _out(self, outcome: Outcome, rows: slice) -> Course:
        """Every choice on its first trip: arrays of shape (times, choices), within the steps in closed form."""
        steps = next((end.steps for end in outcome.ends if isinstance(end.leg, Park)), len(outcome.held))
        each = -(-OUT_PIECES // max(steps, 1))
        shares = [(i + 1) / each for i in range(each)]
        seconds, pack, cabin, before = list[Array](), list[Array](), list[Array](), np.zeros(len(self.plans))
        for held, air in zip(outcome.held[:steps], outcome.cabin[:steps], strict=True):
            seconds += [before + share * held.seconds[rows] for share in shares]
            pack += [held.at(share)[rows] for share in shares]
            cabin += [air.at(share)[rows] for share in shares]
            before = seconds[-1]
        return Course(np.array(seconds), np.array(pack), np.array(cabin))

    def options(self, outing: Outing, taken: Taken) -> tuple[Option, ...]:
        """The choices on the day that was asked for."""
        parts, arrivals = self.scores(taken), np.array([each.soc for each in self.starts]) - taken.soc[0]
        per_soc = outing.trips * outing.km / max(float(taken.soc[0, 0]), 1e-9)
        found = []
        for i, (choice, night) in enumerate(self.plans.items()):
            cold_kmin, driven_min = float(taken.cold_kmin[0, i]), float(taken.driven_min[0, i])
            option = Option(
                choice=choice,
                plan=night,
                start=self.starts[i],
                arrival_soc=float(arrivals[i]),
                gained_km=float(arrivals[i] - arrivals[0]) * per_soc,
                cold_min=float(taken.cold_min[0, i]),
                cold_kmin=cold_kmin,
                driven_min=driven_min,
                regen=float(regen_acceptance(self.starts[i].pack_c, self.starts[i].soc)),
                worn_kwh=float(self.night_worn_kwh[i] + taken.worn_kwh[0, i]),
                parts={name: float(each[0, i]) for name, each in parts.items()},
                reason=self._reason(choice, night, cold_kmin / outing.trips, driven_min / outing.trips),
            )
            found.append(option)
        ruled_out = np.array([[bool(each.reason) for each in found]])
        gap, supplied = self.pack_gap(taken, ruled_out)
        if gap[0] < -self.worth.no_matter <= supplied[0]:
            found[self.warm_pack] = replace(found[self.warm_pack], reason=why("heat_from_pack"))
        return tuple(found)

    def cold(self, outcome: Outcome, again: Array) -> tuple[Array, Array]:
        """Driving minutes colder than comfort, and kelvin-minutes below it: the cabin in closed form over every leg.

        Comfort is what a coat needs, less what warm seats are worth where they are on.
        """
        at, count = self.conditions, len(outcome.soc_used)
        repeats = count // len(self.plans)
        seats = np.tile(self.seats, repeats)
        wanted = COMFORT_C - np.where(seats | (at.seats > 0), SEATS_K, 0.0)
        heat_w = np.where(seats, 0.0, 1000 * self.car.cabin.heater_kw)
        cabin = np.tile([each.cabin_c for each in self.starts], repeats)
        seconds, kelvins, before = np.zeros(count), np.zeros(count), np.zeros(count)
        set_c = at.cabin_set_c if at.cabin_set_c is not None else at.ambient_c
        for end in outcome.ends:
            span = np.maximum((np.asarray(end.hours) - before) * S_PER_H, 1e-6)
            before = np.asarray(end.hours)
            if isinstance(end.leg, Park):
                cabin = relax(cabin, at.ambient_c, 0.0, conductance=CABIN_PARKED, capacity=CABIN_J_PER_K, seconds=span)
                if end.leg.warm_to_c is not None:
                    watts = 1000 * self.car.cabin.heater_kw
                    lead = np.minimum(lead_to(end.leg.warm_to_c - cabin, watts, CABIN_PARKED, CABIN_J_PER_K), span)
                    cabin = cabin + again * np.where(seats, 0.0, heated_by(watts, CABIN_PARKED, CABIN_J_PER_K, lead))
                continue
            held = warm_and_hold(
                cabin,
                at.ambient_c,
                set_c,
                heater_w=heat_w,
                other_w=0.0,
                conductance=CABIN_MOVING * self.car.factors.heat,
                capacity=CABIN_J_PER_K,
                seconds=span,
            )
            more_s, more_k = missing_ks(held, wanted)
            seconds, kelvins, cabin = seconds + more_s, kelvins + more_k, held.end_c
        return seconds / 60.0, kelvins / 60.0 + np.tile(self.scraping_kmin, repeats)

    def along(
        self, outing: Outing, km: Array, driven: Taken
    ) -> tuple[tuple[tuple[float, WarmUpChoice], ...], float | None, float | None]:
        """The best choice over trips of other lengths, and where warm seats end and a warm pack begins, km of one trip."""
        every = np.geomspace(SHORTEST_KM, LONGEST_KM, (PLACES - 1) * FINER + 1)
        taken = driven.between(km, every)
        ruled_out = np.zeros(taken.soc.shape, dtype=bool)
        for i, (choice, night) in enumerate(self.plans.items()):
            cold, minutes = taken.cold_kmin[:, i] / outing.trips, taken.driven_min[:, i] / outing.trips
            ruled_out[:, i] = self._too_cold(cold, minutes) if self.seats[i] else bool(self._reason(choice, night, 0.0, 0.0))
        gap, supplied = self.pack_gap(taken, ruled_out)
        ruled_out[:, self.warm_pack] |= supplied >= -self.worth.no_matter
        total = np.where(ruled_out, np.inf, np.sum(list(self.scores(taken).values()), axis=0))
        choices = list(self.plans)
        best = [choices[int(i)] for i in simplest(total[::FINER], self.worth)]
        sitting = np.min(total[:, ~self.seats], axis=1) - total[:, choices.index(WarmUpChoice.SEATS)]
        pays_from = _turns(every, np.maximum(gap, supplied) + self.worth.no_matter)
        return tuple(zip(km.tolist(), best, strict=True)), pays_from, _turns(every, sitting)

    def _too_cold(self, cold_kmin: Array, driven_min: Array) -> Array:
        """Whether seats alone will not do on trips of so much cold and so many minutes."""
        in_a_coat = (driven_min > COAT_MIN) & (self.conditions.ambient_c < COMFORT_C)
        return np.asarray((cold_kmin > BEARABLE_KMIN) | in_a_coat)


def simplest(total: Array, worth: Worth) -> Array:
    """For each row the first choice that costs no more than the best of them and what does not matter."""
    near = total <= total.min(axis=1, keepdims=True) + worth.no_matter
    return np.asarray(np.argmax(near, axis=1))


def _turns(km: Array, gap: Array) -> float | None:
    """Where a gap falls below 0 for good, between two places on a scale of ratios; None when it never does or always is."""
    below = gap < 0
    if not below[-1] or below.all():
        return None
    i = int(np.flatnonzero(~below)[-1])
    part = float(gap[i] / (gap[i] - gap[i + 1])) if np.isfinite(gap[i + 1]) else 1.0
    return float(np.exp(np.log(km[i]) + part * (np.log(km[i + 1]) - np.log(km[i]))))
