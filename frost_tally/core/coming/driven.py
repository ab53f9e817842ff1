"""What the coming days take, and their warm-ups: as far as it is known before a night is planned."""

from collections.abc import Hashable, Sequence
from datetime import UTC, timedelta

import numpy as np

from ..battery.ageing import wear_cost
from ..car import PARKED_W_PER_K, Car
from ..charge.night import NightRequest
from ..drive.batch import in_one_batch
from ..drive.certainty import LevelBand, OwnDays, fan
from ..drive.day import Start, Trip
from ..drive.road import Conditions
from ..heat.lumped import relax
from ..heat.warm import WarmUpChoice, pack_target_c, warm_ups
from ..units import Array
from .car_week import LEVELS
from .evening import Evening
from .nights import hours

Driven = tuple[Car, Trip, Conditions, Start, OwnDays]


def arrivals(days: Sequence[Driven]) -> dict[Driven, LevelBand]:
    """The bands of the level at the end of some days; they are driven together wherever they are alike."""
    different = list(dict.fromkeys(days))
    bands = in_one_batch(*(fan(*each) for each in different))
    return {each: points[-1].level for each, points in zip(different, bands, strict=True)}


def start_of(made: Evening) -> Start:
    """About how a day begins: from the limit, warmed up as asked, or soaked in the air of the night."""
    ask = made.request
    ambient, idle_c, _ = _soaked(ask)
    pack_c = max(idle_c, pack_target_c(ask.car.pack)) if ask.choice is WarmUpChoice.CABIN_AND_PACK else idle_c
    return Start(ask.target_soc, pack_c, ask.cabin_c if ask.choice.warms_cabin else ambient)


def _soaked(ask: NightRequest) -> tuple[float, float, float]:
    """The air at departure (°C), the pack when nothing warmed it until then (°C), and how long it stood (s)."""
    ambient, stood_s = ask.ambient_c(ask.departure.astimezone(UTC)), 3600.0 * hours(ask.now, ask.departure)
    capacity = ask.car.pack.capacity_j_per_k
    return (
        ambient,
        float(relax(ask.pack_c, ambient, 0.0, conductance=PARKED_W_PER_K, capacity=capacity, seconds=stood_s)),
        stood_s,
    )


def warmed(nights: Sequence[Evening]) -> Array:
    """The warm-ups of some nights, shape (4, nights): energy at the wall (kWh) and lead (s) with the cable in, and what each takes of the
    pack with it and without (kWh).
    """
    found, alike = np.zeros((4, len(nights))), dict[Hashable, list[int]]()
    for i, each in enumerate(nights):
        alike.setdefault((each.request.choice, each.request.cabin_c, each.request.rate), []).append(i)
    for some in alike.values():
        ask = nights[some[0]].request
        ambient, pack_c, stood_s = np.array([_soaked(nights[i].request) for i in some]).T
        by, without = (
            warm_ups(
                ask.car, ask.choice, cabin_c=ambient, pack_c=pack_c, ambient_c=ambient, set_c=ask.cabin_c, wall_kw=kw,
                overhead_kw=ask.rate.overhead_kw, longest_s=stood_s,
            )
            for kw in (ask.rate.wall_kw, 0.0)
        )  # fmt: skip
        found[:, some] = by.wall_kwh, by.lead_s, by.pack_kwh, without.pack_kwh
    return found


def warm_cost(made: Evening, wall_kwh: float, lead_s: float) -> float:
    """Money of a warm-up from the wall, at the price of its time."""
    ask = made.request
    if wall_kwh <= 0:
        return 0.0
    slots = ask.tariff.prices(ask.departure - timedelta(seconds=max(lead_s, 60.0)), ask.departure)
    spent = sum(each.hours for each in slots)
    return wall_kwh * sum(each.price_per_kwh * each.hours for each in slots) / spent if spent > 0 else 0.0


def standing(made: Evening) -> Array:
    """What a day at home wears of the pack at each of `LEVELS`, money: in the air of the morning.

    Source: `battery.ageing.calendar_loss`, priced.
    """
    ask = made.request
    pack, air_c = ask.car.pack, ask.ambient_c(ask.departure.astimezone(UTC))
    return wear_cost(pack.chemistry, pack.usable_kwh, ask.pack_price, held_days=1.0, held_c=air_c, held_soc=LEVELS)
