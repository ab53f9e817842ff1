"""What schedules of many nights come to, by the sum that `Weighing` has for one (docs/decisions/0053)."""

from collections.abc import Sequence

import numpy as np

from ..heat.warm import WarmUpChoice, warm_ups
from ..units import S_PER_H, Array, Flags, Ints
from .charger import Charger
from .courses import STEP_S, Courses, Nights, courses
from .house_hours import HouseHours
from .night import EQUAL_SHARE
from .night_cells import NightCells, night_cells
from .plan import MARGIN_MIN
from .prices import PriceCells
from .schedules import REACHED_SOC, full_soc, tapers
from .sessions import Drawn
from .tries import Tried, table

ROUGH_STEP_S = 3600.0
"""Of a steady charge; its power is the same all the time, only the pack's temperature is told less finely."""


class WeighedNights:
    """The nights of one car under one tariff, each on its own; times are s after plugging in. `unequal`: the nights on which more than
    price tells hours apart (shape (nights,)). `rough`: hours by price alone, not moved about.
    """

    def __init__(self, hung: Charger, nights: Nights, prices: PriceCells, unequal: Flags, rough: bool = False) -> None:
        self.hung, self.nights, self.prices, self.stay_s, self.unequal = hung, nights, prices, nights.stay_s, unequal
        self.rough = rough and not hung.control.kind.one_start
        self.capacity, self.once = hung.car.pack.usable_kwh, hung.control.kind.one_start
        self.house = HouseHours(hung.rate, hung.held, nights, prices.zone, self.once)
        self.late, self.tapers = hung.choice is WarmUpChoice.LATE, tapers(hung.limit_soc)
        self.step_s = 60.0 * hung.control.kind.step_min(hung.control)
        self.margin_s = 0.0 if self.late else 60.0 * MARGIN_MIN
        target_soc = np.full(len(nights.stay_s), hung.limit_soc)
        self.aim_at(target_soc, target_soc - REACHED_SOC)

    def aim_at(self, target_soc: Array, goal_soc: Array) -> None:
        """The level of each night that is as good as its target, and the one at which drawing ends."""
        self.goal_soc, self.full_soc = goal_soc, full_soc(target_soc, goal_soc, self.once)

    def warm_up(self, pack_c: Array, rows: Ints | slice = slice(None)) -> tuple[Array, Array, Array]:
        """Lead (s), wall and pack energy (kWh) of the warm-ups of some nights, from pack temperatures."""
        hung, air_c = self.hung, self.nights.morning_c[rows]
        done = warm_ups(
            hung.car, hung.choice, cabin_c=air_c, pack_c=pack_c, ambient_c=air_c, set_c=hung.cabin_c,
            wall_kw=hung.rate.wall_kw, overhead_kw=hung.rate.overhead_kw, longest_s=self.stay_s[rows],
        )  # fmt: skip
        return done.lead_s, done.wall_kwh, done.pack_kwh

    def cells(self, rows: Ints | slice, end_s: Array) -> NightCells:
        """The quarter hours of some nights, each until its end."""
        begin_s = self.nights.plug_in_s[rows]
        closed = [(begin[rows], end[rows]) for begin, end in self.house.closed]
        strength, dear = self.hung.of_day()
        return night_cells(begin_s, begin_s + end_s, self.prices, strength=strength, dear=dear, closed=closed)

    def nets(self, tries: Sequence[Tried], rows: Ints, price: Array, end_s: Array) -> Array:
        """What every try of some nights comes to, shape (tries, nights); inf where a night was not tried."""
        return table(tries, len(rows), lambda each: self.net(each.done, rows[each.nights], price, end_s), np.inf)

    def latest(self, nets: Array, costs: Array, begins: Array) -> Ints:
        """Of what comes to as good as the least (along the first axis) the one that begins last, as the planner has it."""
        least = nets.argmin(axis=0)[None]
        equal = nets <= np.take_along_axis(nets, least, axis=0) + EQUAL_SHARE * np.abs(np.take_along_axis(costs, least, axis=0))
        return np.asarray(np.where(equal & np.isfinite(nets), begins, -1.0).argmax(axis=0))

    def net(self, done: Courses, rows: Ints, price: Array, end_s: Array) -> Array:
        """What schedules of some nights come to: charging, warm-up and wear less the level that is left; inf where the limit is not
        reached in time. `price` is what a kWh in the pack costs, shape (nights,).
        """
        lead_s, wall_kwh, pack_kwh = self.warm_up(done.pack_c, rows)
        cost = done.bill + self.warm_cost(rows, lead_s, wall_kwh) + done.wear
        left = done.level_soc * self.capacity - pack_kwh
        able = done.reached_s <= np.minimum(end_s[rows], self.stay_s[rows] - lead_s)
        return np.where(able, cost - price[rows] * left, np.inf)

    def warm_cost(self, rows: Ints | slice, lead_s: Array, wall_kwh: Array) -> Array:
        """Money of the warm-ups' wall energy, spread over their leads."""
        leaves_s = self.nights.departure_s[rows]
        spent = self.prices.paid(leaves_s) - self.prices.paid(leaves_s - np.maximum(lead_s, 1.0))
        return np.asarray(wall_kwh * spent * S_PER_H / np.maximum(lead_s, 1.0))

    def courses(self, night: Ints, soc: Array, drawn: Sequence[Drawn]) -> Courses:
        """What becomes of schedules of some nights (their numbers) from some levels."""
        hung = self.hung
        step_s = ROUGH_STEP_S if self.rough else STEP_S
        return courses(
            hung.car,
            self.house.rates,
            self.full_soc[night],
            self.goal_soc[night],
            hung.pack_price,
            nights=self.nights,
            prices=self.prices,
            night=night,
            soc=soc,
            drawn=drawn,
            step_s=step_s,
        )
