"""Whether to warm up before a departure: the verdict over five choices, and the course of both temperatures."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC

import numpy as np

from ..battery.ageing import kwh_cost, pack_price
from ..charge.night import NightPlan, NightRequest, plans
from ..drive.day import Start, Trip
from ..drive.outing import Outing
from ..drive.road import Conditions
from ..drive.usual import MoreWhenCold
from ..heat.warm import WarmUpChoice
from ..units import Array
from .choices import ChoiceDay, Course, Waiting, simplest
from .worth import COMFORT_KWH, ON_THE_WAY, Option, Worth


@dataclass(frozen=True, kw_only=True)
class Advice:
    """The verdict, and `by_km` the best choice for trips of other lengths.

    `pack_from_km` is where a warm pack begins to pay, `seats_to_km` where warm seats cease to: km one way, None when
    nowhere on the scale. `out` is every choice on the first trip: arrays of shape (times, choices).
    """

    options: tuple[Option, ...]
    best: Option
    by_km: tuple[tuple[float, WarmUpChoice], ...]
    pack_from_km: float | None
    seats_to_km: float | None
    worth: Worth
    home: Mapping[WarmUpChoice, Waiting]
    out: Course

    def option(self, choice: WarmUpChoice) -> Option:
        """The option of a choice. Raises: KeyError when it is not among them."""
        return {each.choice: each for each in self.options}[choice]


def advise(
    request: NightRequest,
    outing: Outing,
    conditions: Conditions,
    *,
    need_soc: float = 0.2,
    pack_per_kwh: float | None = None,
    outdoors: bool = False,
    trip: Trip | None = None,
) -> Advice:
    """Plan the night and simulate the day with each choice; the cheapest in all, comfort and wear counted, is advised.

    Args: `request` as for the night (its `choice` and `morning_kwh` are not used); `conditions` of the drives, with a cabin temperature;
    `need_soc` the lowest level the owner plans to see: what is missing to it is charged on the way. `pack_per_kwh` is the price of a new
    pack in the tariff's money per kWh (None: that of the request, else in euro). A car `outdoors` has iced screens in frost: they are
    cleared before driving, by a warm cabin or by hand. `trip` is the day itself (None: the outing).
    Raises: Refusal and OutOfRange with their field, as the night plan and the outing do.
    """
    outing = outing.checked()
    leaving = Start(request.target_soc, request.pack_c, request.cabin_c)
    request = replace(request, morning_kwh=MoreWhenCold(request.car, Trip(tuple(outing.legs_out())), conditions, leaving))
    nights = plans(request, tuple(WarmUpChoice))
    worth = _worth(request, nights[WarmUpChoice.NOTHING], pack_per_kwh)
    day = ChoiceDay(nights, conditions, need_soc, worth, outdoors)
    driven = day.driven(outing)
    options = day.options(outing, driven.asked if trip is None else day.asked_on(trip))
    by_km, pack_from, seats_to = day.along(outing, driven.km, driven.others)
    best = options[int(simplest(np.array([[np.inf if each.reason else each.total for each in options]]), worth)[0])]
    return Advice(
        options=options, best=best, by_km=by_km, pack_from_km=pack_from, seats_to_km=seats_to, worth=worth, home=driven.home,
        out=driven.out,
    )  # fmt: skip


def _worth(request: NightRequest, night: NightPlan, pack_per_kwh: float | None) -> Worth:
    """Energy in the pack at what the night pays for it; comfort at the night's mean price, as energy spent on it would be."""
    chemistry = request.car.pack.chemistry
    price = request.pack_price or pack_price(chemistry) if pack_per_kwh is None else pack_per_kwh
    return Worth(
        in_pack=night.price_in_pack,
        on_the_way=ON_THE_WAY * max([0.0, *(slot.price_per_kwh for slot in night.prices)]),
        comfort=COMFORT_KWH * night.mean_price,
        wear=kwh_cost(chemistry, price),
        no_matter=night.no_matter,
    )


def courses(advice: Advice, before_s: float) -> Mapping[WarmUpChoice, Course]:
    """Pack and cabin of every choice from `before_s` before departure to the end of the first trip."""
    early, out, found = np.linspace(-before_s, 0.0, 46), advice.out, {}
    for i, option in enumerate(advice.options):
        pack, cabin = _before(option.plan, early)
        found[option.choice] = Course(
            np.concatenate([early, out.seconds[:, i]]),
            np.concatenate([pack, out.pack_c[:, i]]),
            np.concatenate([cabin, out.cabin_c[:, i]]),
        )
    return found


def _before(night: NightPlan, seconds: Array) -> tuple[Array, Array]:
    """Pack and cabin before departure: what the night leaves, and what the heaters added so far."""
    ask, warm, steps = night.request, night.warm, night.session.steps
    departs = (ask.departure.astimezone(UTC) - night.start).total_seconds()
    left = np.interp(departs + seconds, [step.at_s for step in steps], [step.pack_c for step in steps])
    return left + warm.pack.added_k(-seconds), ask.ambient_c(ask.departure) + warm.cabin.added_k(-seconds)
