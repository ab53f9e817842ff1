"""Whether to warm up before a departure: the verdict over five choices, and the course of both temperatures."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC
from functools import cached_property

import numpy as np

from ..battery.ageing import kwh_cost, pack_price
from ..charge.night import NightPlan, NightRequest, plans
from ..drive.day import Start, Trip
from ..drive.outing import Outing
from ..drive.road import Conditions
from ..drive.usual import MoreWhenCold
from ..heat.warm import WarmUpChoice
from ..units import Array
from .choices import ChoiceDay, Course, Driven, Waiting, simplest
from .worth import COMFORT_KWH, ON_THE_WAY, Option, Worth


@dataclass(frozen=True, kw_only=True, eq=False)
class Advice:
    """The verdict over the choices; what is shown beside it is driven when somebody asks for it."""

    options: tuple[Option, ...]
    best: Option
    worth: Worth
    day: ChoiceDay
    outing: Outing

    def option(self, choice: WarmUpChoice) -> Option:
        """The option of a choice. Raises: KeyError when it is not among them."""
        return {each.choice: each for each in self.options}[choice]

    @cached_property
    def driven(self) -> Driven:
        """The outing, and outings of other lengths."""
        return self.day.driven(self.outing)

    @property
    def home(self) -> Mapping[WarmUpChoice, Waiting]:
        """How the car waits to go home."""
        return self.driven.home

    @property
    def out(self) -> Course:
        """Every choice on the first trip: arrays of shape (times, choices)."""
        return self.driven.out

    @cached_property
    def _along(self) -> tuple[tuple[tuple[float, WarmUpChoice], ...], float | None, float | None]:
        return self.day.along(self.outing, self.driven.km, self.driven.others)

    @property
    def by_km(self) -> tuple[tuple[float, WarmUpChoice], ...]:
        """The best choice for trips of other lengths, km one way."""
        return self._along[0]

    @property
    def pack_from_km(self) -> float | None:
        """Where a warm pack begins to pay, km one way; None when nowhere on the scale."""
        return self._along[1]

    @property
    def seats_to_km(self) -> float | None:
        """Where warm seats cease to pay, km one way; None when nowhere on the scale."""
        return self._along[2]


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

    Args: `request` as for the night (its `choice` is not used, its `morning_kwh` only with the `trip`); `conditions` of the drives, with a
    cabin temperature; `need_soc` the lowest level the owner plans to see: what is missing is charged on the way. `pack_per_kwh` is the
    price of a new pack in money per kWh (None: that of the request, else in euro). A car `outdoors` has iced screens in frost:
    they are cleared before driving, by a warm cabin or by hand. `trip` is the day itself (None: the outing).
    Raises: Refusal and OutOfRange with their field, as the night plan and the outing do.
    """
    outing = outing.checked()
    if trip is None or request.morning_kwh is None:
        leaving = Start(request.target_soc, request.pack_c, request.cabin_c)
        request = replace(request, morning_kwh=MoreWhenCold(request.car, Trip(tuple(outing.legs_out())), conditions, leaving))
    nights = plans(request, tuple(WarmUpChoice))
    worth = _worth(request, nights[WarmUpChoice.NOTHING], pack_per_kwh)
    day = ChoiceDay(nights, conditions, need_soc, worth, outdoors)
    options = day.options(outing, day.asked_on(trip or outing.trip(), outing.warm_home_c is not None))
    best = options[int(simplest(np.array([[np.inf if each.reason else each.total for each in options]]), worth)[0])]
    return Advice(options=options, best=best, worth=worth, day=day, outing=outing)


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
