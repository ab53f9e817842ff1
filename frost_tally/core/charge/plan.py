"""What is asked of a night, and the plan it gets."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from functools import cached_property
from itertools import pairwise
from typing import Protocol

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import REGEN_FADES_SOC
from ..car import Car
from ..heat.warm import WarmUp, WarmUpChoice
from ..why import Why
from .control import Control
from .night_clock import HeldHours
from .prices import PriceSlot
from .session import Session
from .supply import ChargeRate
from .tariff import Tariff

MARGIN_MIN = figure("night.margin", 30.0, "min", Basis.COMMON_PRACTICE, "done this long before departure")
LINKED, NEVER_HELD = Control(), HeldHours(time(), time())
NO_MATTER_KWH = figure("night.no_matter", 0.1, "kWh", Basis.COMMON_PRACTICE, "within its price the simpler choice wins")


FULL_SOC = figure("night.full_from", 0.95, "", Basis.COMMON_PRACTICE, "a pack above this should not stand")
DEARER = 0.2
"""Hours that cost more than the day's least by this share of it are not its cheap ones."""
LOWER_SOC = 0.005
"""A level that ends lower by less is the same."""
STANDS_LONG = timedelta(hours=1.5)
ABOUT_THE_SAME, NEAR_FULL = timedelta(minutes=20), 0.02


@dataclass(frozen=True, kw_only=True)
class NightRequest:
    """What is known in the evening. Times are aware; levels 0 to 1; `ambient_c` gives the parking place's °C at a time.

    A `plug_in` at or after departure means that the car stands unplugged from now on.

    `tie_break` is "late" (default), "early" or "cool" (the coolest air) among equals. `cabin_c` is the temperature the cabin is warmed to.
    `control` says which starts the owner's car or outlet can make, `held` the hours in which the house leaves
    less. `pack_price` is that of a new pack per kWh, by which wear counts in
    money (0: it does not): also what a full pack wears by standing until departure.
    `unplug` is when the cable goes over to another car (None: it stays in).
    `morning_kwh` gives what the day that follows takes more from the pack (kWh) the colder the pack departs (°C), as
    `drive.usual.MoreWhenCold` does; None when the day is not known: then warmth counts only for a warm-up of the pack.
    """

    now: datetime
    plug_in: datetime
    departure: datetime
    soc: float
    target_soc: float
    car: Car
    rate: ChargeRate
    tariff: Tariff
    ambient_c: Callable[[datetime], float]
    pack_c: float
    choice: WarmUpChoice = WarmUpChoice.NOTHING
    cabin_c: float = 20.0
    margin_min: float = MARGIN_MIN
    tie_break: str = "late"
    morning_kwh: Callable[[float], float] | None = None
    control: Control = LINKED
    pack_price: float = 0.0
    held: HeldHours = NEVER_HELD
    unplug: datetime | None = None

    @property
    def plugged(self) -> bool:
        """Whether the cable is in before departure."""
        return self.plug_in < self.departure

    @property
    def by_wall(self) -> bool:
        """Whether the cable is still in at departure, so that the wall feeds the warm-up."""
        return self.plugged and self.unplug is None

    @property
    def warms_pack(self) -> bool:
        """Whether the warm-up warms the pack."""
        return self.choice is WarmUpChoice.CABIN_AND_PACK


@dataclass(frozen=True)
class Block:
    """An uninterrupted time of drawing power, with its wall energy (kWh), cost and highest power at the wall (kW)."""

    start: datetime
    end: datetime
    wall_kwh: float
    cost: float
    wall_kw: float


@dataclass(frozen=True)
class HeldSpan:
    """Hours in which the house leaves the car so many amperes (0: none)."""

    start: datetime
    end: datetime
    amps: float


@dataclass(frozen=True, kw_only=True)
class Rival:
    """Another way through the night, simulated in full: its first draw and its last, its cost with its own warm-up, the pack at departure
    (°C), what the warmth of the plan is worth against it and what it wears (money).
    """

    start: datetime
    end: datetime
    cost: float
    pack_c: float
    warmth_worth: float
    wear: float = 0.0


class OtherPlans(Protocol):
    """Plans beside the one that is kept, worked out when they are asked for."""

    def by_order(self, order: str) -> Rival:
        """Drawing "first" (at once), in the "cheapest" hours whatever cold and wear say, or in the "dearest" ones, to the same level."""

    def late(self) -> Rival:
        """The hours by price alone, as late as they come."""

    def cheapest(self) -> Rival:
        """Of all that was weighed what has the least bill."""

    def an_hour_late(self) -> tuple[float, float]:
        """What plugging in an hour after the first draw would cost more (money), and by how much it would end lower (0 to 1)."""

    @property
    def latest_plug_in(self) -> datetime:
        """The latest start that still reaches the target, or what can be reached."""

    def rest(self, request: NightRequest) -> "NightPlan | None":
        """See `NightPlan.rest`."""


@dataclass(frozen=True, kw_only=True)
class NightPlan:
    """The plan and what it leads to. Times in UTC, energies in kWh, levels 0 to 1, money in the tariff's currency.

    `wear` is what the night wears of the pack, in money (0 when its price is not asked for).
    `price_in_pack` is what a kWh in the pack costs tonight: the charging's bill over what it put in, else the cheapest hour.
    `others` are plans to the same level, simulated with their own heat and warm-up when somebody asks. `frosty`: cold made more than price
    count, for a control that can draw any hours.
    """

    request: NightRequest
    start: datetime
    blocks: tuple[Block, ...]
    warm: WarmUp
    warm_start: datetime
    warm_cost: float
    session: Session
    prices: tuple[PriceSlot, ...]
    held: tuple[HeldSpan, ...]
    soc_departure: float
    short_soc: float
    cost: float
    wear: float
    price_in_pack: float
    frosty: bool
    hours_above_80: float
    reason: Why
    others: OtherPlans

    @property
    def highest_soc(self) -> float:
        """The highest level of the night, 0 to 1."""
        return max(step.soc for step in self.session.steps)

    @property
    def mean_price(self) -> float:
        """What a kWh costs over the whole night, money; 0 where it is paid for taking it."""
        hours = [slot.hours for slot in self.prices]
        return max(0.0, float(np.average([slot.price_per_kwh for slot in self.prices], weights=hours))) if hours else 0.0

    @property
    def no_matter(self) -> float:
        """The sum up to which a difference is none, money: the price of a tenth of a kWh, whatever the currency."""
        return NO_MATTER_KWH * self.mean_price

    @cached_property
    def late(self) -> Rival | None:
        """On a night of frost the plan by price alone, as late as it can."""
        return self.others.late() if self.frosty else None

    @cached_property
    def cheapest(self) -> Rival | None:
        """On a night of frost the plan with the least bill."""
        return self.others.cheapest() if self.frosty else None

    @cached_property
    def at_once(self) -> Rival:
        """Plugging in and charging at once."""
        return self.others.by_order("first")

    @cached_property
    def cheapest_only(self) -> Rival:
        """The cheapest hours, as late as they come, whatever the cold and the wear."""
        return self.others.by_order("cheapest")

    def drawn_a(self, rate: ChargeRate) -> list[tuple[datetime, datetime, float]]:
        """What is drawn, as begin, end and amperes of each phase: the blocks at their share of the rate, and the warm-up at all of it."""
        found = [(each.start, each.end, rate.amps * each.wall_kw / rate.wall_kw) for each in self.blocks]
        if self.warm.wall_kwh > 0:
            found.append((self.warm_start, self.request.departure, rate.amps))
        return [each for each in found if each[1] > each[0]]

    def reached(self, soc: float) -> datetime | None:
        """When the level (0 to 1) is first reached; None for never."""
        for before, after in pairwise(self.session.steps):
            if after.soc >= soc > before.soc:
                part = (soc - before.soc) / (after.soc - before.soc)
                return self.start + timedelta(seconds=before.at_s + (after.at_s - before.at_s) * part)
        return None

    def dear(self, cheapest: float) -> float | None:
        """The least price before departure when none of its hours is a cheap one beside the `cheapest` of the day; else None."""
        least = min((each.price_per_kwh for each in self.prices), default=cheapest)
        return least if self.blocks and least - cheapest > DEARER * abs(cheapest) else None

    def rest(self, request: NightRequest) -> "NightPlan | None":
        """What is left of it at a later moment of a night that has gone as planned (so `request` says); None where its hours do not reach
        the target any more. What follows of a best plan is the best for what is left. Source: Bellman's principle of optimality (1957).
        """
        return self.others.rest(request)

    @property
    def reaches_limit(self) -> bool:
        """Whether it ends where it was asked to."""
        return self.short_soc <= LOWER_SOC

    @property
    def cost_at_once(self) -> float:
        """What plugging in and charging at once would cost, to the same level, money."""
        return self.at_once.cost

    @property
    def cost_dearest(self) -> float:
        """What the dearest hours would cost, to the same level, money."""
        return self.others.by_order("dearest").cost

    @cached_property
    def an_hour_late(self) -> tuple[float, float]:
        """What plugging in an hour after the first draw costs more (money), and by how much it ends lower (0 to 1)."""
        return self.others.an_hour_late()

    @property
    def latest_plug_in(self) -> datetime:
        """The latest start that still reaches the target, or what can be reached; on the quarter hour in frost."""
        return self.others.latest_plug_in

    @property
    def waiting_is_dearer(self) -> bool:
        """Whether the latest cheap hours begin clearly later and would cost more that matters."""
        late = self.late
        if late is None or not self.blocks or late.start <= self.blocks[0].start + ABOUT_THE_SAME:
            return False
        return late.cost > self.cost + self.no_matter

    @property
    def colder_is_cheaper(self) -> bool:
        """Whether the least bill is smaller by what matters, but leaves a colder pack that the day pays for."""
        cheapest = self.cheapest
        return cheapest is not None and self.cost > cheapest.cost + self.no_matter and cheapest.warmth_worth > 0

    @property
    def brakes_less(self) -> bool:
        """Whether the limit is so high that the motor brakes less at first."""
        return self.request.target_soc > REGEN_FADES_SOC

    @cached_property
    def last_part(self) -> Block | None:
        """The last block, where it holds back the part above `FULL_SOC` until shortly before departure; else None."""
        if self.request.target_soc <= FULL_SOC or len(self.blocks) < 2 or self.stands_full:
            return None
        last = self.blocks[-1]
        return last if abs(self.soc_at(last.start) - FULL_SOC) < NEAR_FULL else None

    @property
    def stands_full(self) -> bool:
        """Whether a pack that is all but full stands for hours before departure."""
        full = self.request.target_soc > FULL_SOC and bool(self.blocks)
        return full and self.request.departure - self.blocks[-1].end > STANDS_LONG

    def soc_at(self, moment: datetime) -> float:
        """Level at a time of the night, 0 to 1."""
        return self.session.at((moment - self.start).total_seconds())[0]
