"""The five choices before a departure, each driven through the whole day and weighed in money."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import regen_acceptance
from ..car import CABIN_J_PER_K, CABIN_MOVING, CABIN_PARKED, Preheats
from ..charge.night import NightPlan
from ..drive.day import Lanes, Outcome, Road, Start, Trip
from ..drive.outing import Outing
from ..drive.road import SEAT_AND_WHEEL, Conditions
from ..drive.trip import lanes, run
from ..units import S_PER_H, Array
from .lumped import heated_by, lead_to, missing_ks, relax, warm_and_hold
from .warm import WarmUpChoice

COMFORT_C = figure(
    "comfort.in_a_coat", 15.0, "°C", Basis.FROM_MEMORY, "21 °C at 1 clo, 0.6 K less for each 0.1 clo more (ASHRAE); a winter coat"
)
SEATS_K = figure("comfort.warm_seat", 6.0, "K", Basis.FROM_MEMORY, "what a warm seat and wheel are worth in air temperature")
COMFORT_KWH = figure(
    "comfort.worth",
    0.015,
    "kWh/(K·min)",
    Basis.COMMON_PRACTICE,
    "twice the 1 kWh that nearly all spend on ten minutes 13 K too cold",
)
SCREENS_MIN = figure("comfort.scraping", 4.0, "min", Basis.COMMON_PRACTICE, "clearing iced screens by hand, out in the frost")
BEARABLE_KMIN = figure(
    "comfort.bearable",
    150.0,
    "K·min",
    Basis.COMMON_PRACTICE,
    "ten minutes at 15 K too cold on one trip; people come before range",
)
COAT_MIN = figure("comfort.coat_on", 30.0, "min", Basis.COMMON_PRACTICE, "nobody drives longer in a coat and an unheated car")
NO_MATTER_KWH = figure("warm_up.no_matter", 0.1, "kWh", Basis.COMMON_PRACTICE, "within its price the simpler choice wins")
ON_THE_WAY = figure(
    "warm_up.charged_on_the_way", 2.5, "", Basis.COMMON_PRACTICE, "price of a fast charge against the dearest hour"
)
SHORTEST_KM, LONGEST_KM, PLACES = 1.0, 250.0, 33


@dataclass(frozen=True)
class Worth:
    """What things are worth, in the tariff's money: a kWh in the pack, on the way, a K·min of comfort, a mild kWh's wear.

    Differences up to `no_matter` do not count.
    """

    in_pack: float
    on_the_way: float
    comfort: float
    wear: float
    no_matter: float


@dataclass(frozen=True)
class Option:
    """One choice over the whole day. Levels 0 to 1, energies in kWh, temperatures °C, money in the tariff's currency.

    `parts` are what it costs more (or, negative, saves) than doing nothing: `night` at the wall, `level` kept for
    tomorrow, `scarce` level that would have to be charged on the way, `wear` and `comfort`. `cold_min` are the driving
    minutes colder than a coat makes up for, `cold_kmin` by how much; `reason` says why a choice cannot be had.
    """

    choice: WarmUpChoice
    plan: NightPlan
    start: Start
    arrival_soc: float
    gained_km: float
    cold_min: float
    cold_kmin: float
    driven_min: float
    regen: float
    worn_kwh: float
    parts: Mapping[str, float]
    reason: str

    @property
    def total(self) -> float:
        """All parts, against doing nothing."""
        return sum(self.parts.values())

    @property
    def money(self) -> float:
        """What it costs in money more than doing nothing: the night's bill less the energy that is left in the evening."""
        return self.parts["night"] + self.parts["level"]


WARM_PACK = (WarmUpChoice.CABIN_AND_PACK, WarmUpChoice.LATE)
"""Choices in WarmUpChoice stand from the simplest to the one that asks most of the night."""


class ChoiceDay:
    """The day after each night, all choices as lanes of one pass."""

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
        self.starts = [Start(p.soc_departure, p.warm.pack_c, p.warm.cabin_c) for p in plans.values()]
        leaves_c = self.request.ambient_c(self.request.departure)
        scraping = SCREENS_MIN * (COMFORT_C - leaves_c) if outdoors and leaves_c < 0 else 0.0
        self.scraping_kmin = np.array([0.0 if choice.warms_cabin else scraping for choice in plans])
        self.seats = np.array([choice is WarmUpChoice.SEATS for choice in plans])

    def _reason(self, choice: WarmUpChoice, night: NightPlan, cold_kmin: float, driven_min: float) -> str:
        """Why a choice cannot be had, or is not to be had with so much cold on a trip of so long; empty when it can."""
        pack = self.car.pack
        if choice is WarmUpChoice.SEATS and cold_kmin > BEARABLE_KMIN:
            return "too cold for too long: warm people come before range"
        if choice is WarmUpChoice.SEATS and driven_min > COAT_MIN and self.conditions.ambient_c < COMFORT_C:
            return f"nobody drives {driven_min:.0f} minutes in a coat"
        if choice is WarmUpChoice.CABIN_AND_PACK and (pack.preheats is not Preheats.YES or pack.heater_kw <= 0):
            return night.warm.reason
        if choice is WarmUpChoice.LATE and not night.blocks:
            return "there is nothing to charge before this departure"
        return ""

    def lanes(self, starts: Sequence[Start], repeats: int = 1) -> Lanes:
        """A lane for each choice, `repeats` times over: choices vary fastest."""
        base = lanes(self.car, self.conditions, starts[0])
        seats = self.seats.astype(float)
        columns = {
            "soc": np.array([each.soc for each in starts]),
            "pack_c": np.array([each.pack_c for each in starts]),
            "cabin_c": np.array([each.cabin_c for each in starts]),
            "heater": 1.0 - seats,
            "pack_heat": 1.0 - seats,
            "seats": SEAT_AND_WHEEL * seats,
        }
        return replace(base, **{name: np.tile(column, repeats) for name, column in columns.items()})

    def scores(self, outcome: Outcome, cold_kmin: Array) -> Mapping[str, Array]:
        """Money against doing nothing for lanes whose choices vary fastest: arrays of shape (repeats, choices)."""
        shape = (-1, len(self.plans))
        kwh = self.car.pack.usable_kwh
        soc = np.array([each.soc for each in self.starts]) - outcome.soc_used.reshape(shape)
        missing = np.maximum(self.need_soc - soc, 0.0)
        parts = {
            "night": np.tile([each.cost for each in self.plans.values()], (len(soc), 1)),
            "level": -self.worth.in_pack * kwh * soc,
            "scarce": max(0.0, self.worth.on_the_way - self.worth.in_pack) * kwh * missing,
            "wear": self.worth.wear * outcome.worn_kwh.reshape(shape),
            "comfort": self.worth.comfort * cold_kmin.reshape(shape),
        }
        return {name: each - each[:, :1] for name, each in parts.items()}

    def options(self, outing: Outing) -> tuple[Option, ...]:
        """The choices on the day that was asked for."""
        trip = outing.trip()
        outcome = run(self.car, trip, self.conditions, self.lanes(self.starts))
        cold_min, cold_kmin = self.cold(trip, outcome)
        parts = self.scores(outcome, cold_kmin)
        arrivals = np.array([each.soc for each in self.starts]) - outcome.soc_used
        per_soc = trip.distance_km / max(float(outcome.soc_used[0]), 1e-9)
        return tuple(
            Option(
                choice,
                night,
                self.starts[i],
                float(arrivals[i]),
                float(arrivals[i] - arrivals[0]) * per_soc,
                float(cold_min[i]),
                float(cold_kmin[i]),
                float(outcome.hours[i]) * 60.0,
                float(regen_acceptance(self.starts[i].pack_c, self.starts[i].soc)),
                float(outcome.worn_kwh[i]),
                {name: float(each[0, i]) for name, each in parts.items()},
                self._reason(choice, night, float(cold_kmin[i]) / outing.trips, float(outcome.hours[i]) * 60 / outing.trips),
            )
            for i, (choice, night) in enumerate(self.plans.items())
        )

    def cold(self, trip: Trip, outcome: Outcome) -> tuple[Array, Array]:
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
            if end.leg.road is Road.PARKED:
                cabin = relax(cabin, at.ambient_c, 0.0, CABIN_PARKED, CABIN_J_PER_K, span)
                if end.leg.warm_to_c is not None:
                    watts = 1000 * self.car.cabin.heater_kw
                    lead = np.minimum(lead_to(end.leg.warm_to_c - cabin, watts, CABIN_PARKED, CABIN_J_PER_K), span)
                    cabin = cabin + np.where(seats, 0.0, heated_by(watts, CABIN_PARKED, CABIN_J_PER_K, lead))
                continue
            held = warm_and_hold(
                cabin, at.ambient_c, set_c, heat_w, 0.0, CABIN_MOVING * self.car.factors.heat, CABIN_J_PER_K, span
            )
            more_s, more_k = missing_ks(held, wanted)
            seconds, kelvins, cabin = seconds + more_s, kelvins + more_k, held.end_c
        return seconds / 60.0, kelvins / 60.0 + np.tile(self.scraping_kmin, repeats)

    def along(
        self, outing: Outing, options: Sequence[Option]
    ) -> tuple[tuple[tuple[float, WarmUpChoice], ...], float | None, float | None]:
        """The best choice over trips of other lengths, and where warm seats end and a warm pack begins, km of one trip."""
        km = np.geomspace(SHORTEST_KM, LONGEST_KM, PLACES)
        trip, count = outing.unit_trip(), len(self.plans)
        stretch = {f"{road.value}_stretch": np.repeat(each, count) for road, each in outing.roads(km).items()}
        outcome = run(self.car, trip, self.conditions, replace(self.lanes(self.starts, len(km)), **stretch))
        cold_kmin = self.cold(trip, outcome)[1]
        choices, total = [each.choice for each in options], np.sum(list(self.scores(outcome, cold_kmin).values()), axis=0)
        cold, minutes = (each.reshape(total.shape) / outing.trips for each in (cold_kmin, 60 * outcome.hours))
        for i, (choice, night) in enumerate(self.plans.items()):
            pairs = zip(cold[:, i].tolist(), minutes[:, i].tolist(), strict=True)
            total[[bool(self._reason(choice, night, *each)) for each in pairs], i] = np.inf
        best = [choices[int(i)] for i in simplest(total, self.worth)]
        warm = np.array([choice in WARM_PACK for choice in choices])
        pack = np.min(total[:, warm], axis=1) - np.min(total[:, ~warm], axis=1)
        sitting = np.min(total[:, ~self.seats], axis=1) - total[:, choices.index(WarmUpChoice.SEATS)]
        return tuple(zip(km.tolist(), best, strict=True)), _turns(km, pack + self.worth.no_matter), _turns(km, sitting)


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
