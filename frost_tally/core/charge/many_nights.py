"""The schedules of many nights at once, weighed as `night.plan` weighs those of one (docs/decisions/0053)."""

from collections.abc import Sequence
from copy import copy
from typing import TypeVar

import numpy as np

from ..heat.warm import WarmUpChoice, warm_ups
from ..units import S_PER_H, Array, Flags, Ints
from .blocks import in_order, neighbours, with_block
from .charger import Charger
from .courses import STEP_S, Courses, Nights, courses
from .enough import Bracket, least_more
from .house_hours import HouseHours
from .night import EQUAL_SHARE
from .night_cells import EARLIEST, EARLY, LATE, NightCells, night_cells
from .plan import MARGIN_MIN
from .prices import CELL_S, PriceCells
from .schedules import CLOSE_H, FILLS, GRID_S, REACHED_SOC, REAL_S, as_much, full_soc, tapers
from .sessions import Drawn
from .taper import LeastCostHours, filling, missing_h
from .tries import Tried, picked, table, without_blocks

MOVES, NEAREST = 4, 4
AROUND, SHORT = np.arange(-2, 3), 1e9
ROUGH_FILLS = 2
ROUGH_STEP_S = 3600.0
"""Of a steady charge; its power is the same all the time, only the pack's temperature is told less finely."""
FIVE_MIN_S = 300.0

Values = TypeVar("Values", Array, Ints)


class ManyNights:
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
        self._aim_at(target_soc, target_soc - REACHED_SOC)
        self.lowered = False

    def _aim_at(self, target_soc: Array, goal_soc: Array) -> None:
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

    def chosen(self, rows: Ints, price: Array, soc: Array) -> Courses:
        """The best schedule of each of some nights from the levels of all, as `night.plan` finds it: until so long before departure, but
        until the warm-up where that begins earlier, and where the limit is not reached otherwise.
        """
        end_s = np.maximum(0.0, self.stay_s - self.margin_s)
        chosen, able = self._best(rows, price, soc, end_s)
        before_s = np.maximum(0.0, self.stay_s[rows] - self.warm_up(chosen.pack_c, rows)[0])
        again = np.flatnonzero(~able | (chosen.reached_s > before_s + 1.0))
        if again.size:
            end_s[rows[again]] = before_s[again]
            chosen.put(again, self._best(rows[again], price, soc, end_s)[0])
        return chosen

    def _best(self, rows: Ints, price: Array, soc: Array, end_s: Array) -> tuple[Courses, Flags]:
        """The best schedule until an end, and whether it reaches the limit: else what comes highest."""
        by_hours, count = [] if self.once else self._by_hours(rows, price, soc, end_s), len(rows)
        tries = by_hours if self.rough else [*by_hours, *self._by_start(rows, price, soc, end_s)]
        nets = self._nets(tries, rows, price, end_s)
        able, begins = np.asarray(np.isfinite(nets).any(axis=0)), table(tries, count, lambda each: each.done.begin_s, -1.0)
        best = self._latest(nets, table(tries, count, lambda each: each.done.bill, 0.0), begins)
        chosen = picked(tries, best, np.arange(count)).done
        if (short := np.flatnonzero(~able)).size:
            others = [(short, self._highest(rows[short], soc, end_s)), (short, self.courses(rows[short], soc[rows[short]], []))]
            tries = [*by_hours, *(without_blocks(*each) for each in others)]
            self._put_highest(chosen, short, tries, count)
            if self.tapers and not self.once and not self.lowered:
                most_soc = table(tries, count, lambda each: each.done.highest_soc, 0.0).max(axis=0)
                self._put_as_much(chosen, short[tapers(most_soc[short])], most_soc, rows, price, soc, end_s=end_s)
        return chosen, able

    def _put_as_much(
        self, chosen: Courses, short: Ints, most_soc: Array, rows: Ints, price: Array, soc: Array, *, end_s: Array
    ) -> None:
        """Of nights that fall short in the taper, the cheapest that leaves as much as any: the last of a full pack takes hours."""
        lower = copy(self)
        lower.lowered, target_soc = True, self.full_soc.copy()
        target_soc[rows[short]] = most_soc[short]
        lower._aim_at(target_soc, as_much(target_soc))
        least, able = lower._best(rows[short], price, soc, end_s)
        chosen.put(short[able], least.at(np.flatnonzero(able)))

    @staticmethod
    def _put_highest(chosen: Courses, short: Ints, tries: Sequence[Tried], count: int) -> None:
        """Of what leaves as much as any the cheapest, for nights that fall short."""
        level = table(tries, count, lambda each: each.done.level_soc, -1.0)[:, short]
        bills = table(tries, count, lambda each: each.done.bill, np.inf)[:, short]
        cheapest = np.where(level >= as_much(level.max(axis=0)), bills, np.inf).argmin(axis=0)
        chosen.put(short, picked(tries, cheapest, short).done)

    def _nets(self, tries: Sequence[Tried], rows: Ints, price: Array, end_s: Array) -> Array:
        """What every try of some nights comes to, shape (tries, nights); inf where a night was not tried."""
        return table(tries, len(rows), lambda each: self._net(each.done, rows[each.nights], price, end_s), np.inf)

    def _latest(self, nets: Array, costs: Array, begins: Array) -> Ints:
        """Of what comes to as good as the least (along the first axis) the one that begins last, as the planner has it."""
        least = nets.argmin(axis=0)[None]
        equal = nets <= np.take_along_axis(nets, least, axis=0) + EQUAL_SHARE * np.abs(np.take_along_axis(costs, least, axis=0))
        return np.asarray(np.where(equal & np.isfinite(nets), begins, -1.0).argmax(axis=0))

    def _net(self, done: Courses, rows: Ints, price: Array, end_s: Array) -> Array:
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

    def _by_hours(self, rows: Ints, price: Array, soc: Array, end_s: Array) -> list[Tried]:
        """Hours by price: as late as the price allows, and where more than price counts as early; with the taper on its own."""
        window, need_h = self.cells(rows, end_s[rows]), (self.full_soc - soc)[rows] * self.capacity / self.hung.rate.pack_kw
        need_h = np.maximum(need_h, 0.0)
        unequal = np.flatnonzero(self.unequal[rows])
        asked = [(LATE, np.arange(len(rows))), *((each, unequal) for each in (EARLIEST, EARLY)[: 1 if self.rough else 2])]
        orders, nights = (np.concatenate(each) for each in zip(*((np.full(len(n), o), n) for o, n in asked), strict=True))
        filled = self._filled(rows[nights], soc, end_s, window=window.at(nights), hours=need_h[nights], orders=orders)
        parts = [each.of(orders[each.nights] == order) for each in filled for order, _ in asked]
        tries = [each._replace(nights=nights[each.nights]) for each in parts if each.nights.size or not len(rows)]
        if not unequal.size:
            return tries
        kinds = [tries, self._with_taper(rows, window, soc, end_s)] if self.tapers else [tries]
        return [each for some in kinds for each in (self._moved(rows, price, soc, end_s, some), *some)]

    def _moved(self, rows: Ints, price: Array, soc: Array, end_s: Array, tries: Sequence[Tried]) -> Tried:
        """The best of some tries of all nights; where it has several blocks, its neighbours too: see `ScheduleSearch.moved`."""
        best = self._nets(tries, rows, price, end_s).argmin(axis=0)
        nights, done, begin, end = picked(tries, best, np.arange(len(rows)))
        net, going = self._net(done, rows, price, end_s), np.flatnonzero((end - begin > REAL_S).sum(axis=1) > 1)
        for _ in range(MOVES if going.size and not self.rough else 0):
            begins, ends, count = neighbours(
                begin[going], end[going], done.done_s[going], end_s[rows[going]], self.nights.plug_in_s[rows[going]] % GRID_S
            )
            night, each = np.tile(rows[going], count), np.arange(len(going))
            others = self._in_blocks(night, soc[night], begins, ends)
            nets = self._net(others, night, price, end_s).reshape(count, -1)
            best = nets.argmin(axis=0)
            better = nets[best, each] < net[going] - 1e-9
            number, going = (best * len(going) + each)[better], going[better]
            if not going.size:
                break
            done.put(going, others.at(number))
            net[going], begin[going], end[going] = nets.ravel()[number], begins[number], ends[number]
        return Tried(nights, done, begin, end)

    def _in_blocks(self, night: Ints, soc: Array, begin: Array, end: Array) -> Courses:
        """Blocks of some nights."""
        return self.courses(night, soc, [span for each in in_order(begin, end) for span in self.house.drawn(night, *each)])

    def _filled(self, rows: Ints, soc: Array, end_s: Array, *, window: NightCells, hours: Array, orders: Ints) -> list[Tried]:
        """Cells filled in an order for as long as it takes: what frost adds is found in rounds, all of which are told, for where a full
        pack is out of reach fewer hours may leave as much.
        """
        going, hours, tries, bracket = np.arange(len(rows)), hours.copy(), list[Tried](), Bracket(window.whole_h)
        for turn in range((ROUGH_FILLS if self.rough else FILLS) if len(rows) else 0):
            these, cells = rows[going], window if len(going) == len(rows) else window.at(going)
            drawn_h = cells.cheapest(hours[going], orders[going])
            begins, ends = cells.blocks(drawn_h, orders[going] == LATE)
            tried = self._open_ended(these, soc, begins, ends, end_s)
            tries.append(Tried(going, tried, begins, ends))
            over_h = cells.last_strength(drawn_h) * (tried.drawn_s - (ends - begins).sum(axis=1)) / S_PER_H
            more_h = missing_h(self.hung.car, self.hung.rate, tried.highest_soc, self.full_soc[these])
            reaches = np.isfinite(tried.reached_s)
            over_h += np.where(reaches, 0.0, np.maximum(1.5**turn * more_h, 2 * CLOSE_H))
            further = bracket.within(going, hours[going], over_h)
            off = np.abs(further - hours[going]) > CLOSE_H
            hours[going], going = further, going[off]
            if not going.size:
                break
        return tries or [self._nothing(rows, soc)]

    def _open_ended(self, rows: Ints, soc: Array, begin: Array, end: Array, end_s: Array) -> Courses:
        """Blocks of some nights, the last of which goes on where all of them are too short."""
        return self._in_blocks(rows, soc[rows], begin, with_block(end, -1, np.maximum(end[:, -1], end_s[rows])))

    def _nothing(self, rows: Ints, soc: Array) -> Tried:
        """Some nights without drawing."""
        return without_blocks(np.arange(len(rows)), self.courses(rows, soc[rows], []))

    def _with_taper(self, rows: Ints, window: NightCells, soc: Array, end_s: Array) -> list[Tried]:
        """See `ScheduleSearch.with_taper`, for all nights at once."""
        most, tries = window.price.shape[1], [self._nothing(rows, soc)]
        pack_c, air_c = self.nights.pack_c[rows], self.nights.air_c[rows]
        course = filling(self.hung.car, self.hung.rate, soc[rows], self.full_soc[rows], most, pack_c=pack_c, air_c=air_c)
        hours = LeastCostHours(course, window.price, window.room_h, window.strong)

        def enough_with(these: Ints, more: Ints) -> Flags:
            drawn_h = hours.drawn(these, course.begins[these] - more)
            begins, ends = window.at(these).blocks(drawn_h, np.ones(len(these), dtype=bool))
            tried = self._open_ended(rows[these], soc, begins, ends, end_s)
            tries.append(Tried(these, tried, begins, ends))
            return np.asarray(np.isfinite(tried.reached_s) | (drawn_h.sum(axis=1) > window.whole_h[these] - CLOSE_H))

        least_more(enough_with, len(rows), most)
        return tries

    def _by_start(self, rows: Ints, price: Array, soc: Array, end_s: Array) -> list[Tried]:
        """The best of each night's starts: every one that its control allows; between those that are tried first, those near the best."""
        # where nothing tapers and the house leaves all hours, hours by price run on through what is dear as a single start would
        if not self.once and (self.late or not (self.tapers or self.house.spans) or not self.unequal[rows].any()):
            return []
        begin_s, able = self._quarter_hours(rows)
        best, near = self._best_start(rows, price, soc, end_s=end_s, begin_s=begin_s, able=able)
        if self.step_s % CELL_S == 0 or self.hung.control.only:
            return [without_blocks(np.arange(len(rows)), best)]
        top = np.take_along_axis(begin_s, np.argsort(near, axis=1)[:, :NEAREST], axis=1)
        opens = [
            end[rows, None] for _, end in self.house.closed
        ]  # the first start after the house's hours is late by less than a quarter
        near = self._on_steps(
            rows, np.concatenate([(top[:, :, None] + AROUND * self.step_s).reshape(len(rows), -1), *opens], axis=1)
        )
        nearest = self._best_start(rows, price, soc, end_s=end_s, begin_s=near, able=near >= 0)[0]
        return [without_blocks(np.arange(len(rows)), each) for each in (best, nearest)]

    def _on_steps(self, rows: Ints, begin_s: Array) -> Array:
        """The next steps of the control's clock at or after times of some nights."""
        plug_in_s = self.nights.plug_in_s[rows, None]
        return np.asarray(np.ceil((plug_in_s + begin_s) / self.step_s - 1e-9) * self.step_s - plug_in_s)

    def _quarter_hours(self, rows: Ints) -> tuple[Array, Flags]:
        """Plugging in and the quarter hours of each night (s), and which of them its control can start at; for a timer that is set once the
        times at which it is set.
        """
        control, window = self.hung.control, self.cells(rows, self.stay_s[rows])
        after = control.only.minute % 15 // 5 if control.only else 0
        edge_s = CELL_S * np.arange(window.room_h.shape[1]) - S_PER_H * window.begin_h[:, None] + FIVE_MIN_S * after
        able = control.of_day()[3 * window.local + after] & (edge_s > -1e-6)
        able[:, 0] |= control.kind.on_plugging_in
        return np.maximum(edge_s, 0.0), able

    def _best_start(
        self, rows: Ints, price: Array, soc: Array, *, end_s: Array, begin_s: Array, able: Flags
    ) -> tuple[Courses, Array]:
        """Of some starts of each night the best, and by what they are nearest to it: what each comes to, after all that reach the limit
        the higher ones (inf: not able).
        """
        able = able & (begin_s < end_s[rows, None] - 60.0) & self.house.open_at(rows, begin_s)
        row, place = np.nonzero(able)
        night, start_s = rows[row], begin_s[row, place]
        drawn = self.house.drawn(night, start_s, self.house.until(night, start_s, end_s[night]))
        done = self.courses(night, soc[night], drawn)
        nets = self._net(done, night, price, end_s)
        net, cost = _table(able, nets, np.inf), _table(able, done.bill, 0.0)
        best, number = self._latest(net.T, cost.T, begin_s.T), _table(able, np.arange(len(row)), 0)
        chosen = done.at(number[np.arange(len(rows)), best]) if len(row) else self.courses(rows, soc[rows], [])
        chosen.reached_s[~np.isfinite(net.min(axis=1))] = np.inf
        return chosen, _table(able, np.where(np.isfinite(nets), nets, SHORT - done.highest_soc), np.inf)

    def _highest(self, rows: Ints, soc: Array, end_s: Array) -> Courses:
        """Where no schedule reaches the limit: of single starts that leave the most the cheapest, the last of equals."""
        begin_s, able = self._quarter_hours(rows)
        if self.step_s % CELL_S and not self.hung.control.only:
            begin_s = self._on_steps(rows, np.arange(0.0, begin_s.max(initial=0.0) + 1.0, self.step_s)[None])
            able = begin_s < self.stay_s[rows, None]
        able &= self.house.open_at(rows, begin_s) & (begin_s < end_s[rows, None] - 60.0)
        none = ~able.any(axis=1) & np.full(len(able), self.once)
        able[~able.any(axis=1), 0] = True
        row, place = np.nonzero(able)
        night, start_s = rows[row], begin_s[row, place]
        until_s = np.where(none[row], start_s, self.house.until(night, start_s, end_s[night]))
        done = self.courses(night, soc[night], self.house.drawn(night, start_s, until_s))
        level, number = _table(able, done.level_soc, -1.0), _table(able, np.arange(len(row)), 0)
        bill = np.where(level >= as_much(level.max(axis=1))[:, None], _table(able, done.bill, np.inf), np.inf)
        cheapest = begin_s.shape[1] - 1 - np.argmin(bill[:, ::-1], axis=1)
        return done.at(number[np.arange(len(rows)), cheapest])

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


def _table(able: Flags, values: Values, otherwise: float) -> Values:
    """Values of what is able, row by row, in a table of all; the others get another value."""
    found = np.full(able.shape, otherwise, dtype=values.dtype)
    found[able] = values
    return found
