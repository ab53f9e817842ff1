"""The schedules of many nights at once, weighed as `night.plan` weighs those of one (docs/decisions/0053)."""

from collections.abc import Sequence
from copy import copy

import numpy as np

from ..units import S_PER_H, Array, Flags, Ints
from .blocks import in_order, neighbours, with_block
from .courses import Courses
from .enough import Bracket, least_more
from .many_starts import ManyStarts
from .night_cells import EARLIEST, EARLY, LATE, NightCells
from .schedules import CLOSE_H, FILLS, GRID_S, REAL_S, as_much, tapers
from .taper import LeastCostHours, filling, missing_h
from .tries import Tried, picked, table, without_blocks
from .weighed_nights import WeighedNights

MOVES, ROUGH_FILLS = 4, 2


class ManyNights(WeighedNights):
    """The search: hours by price, hours of a full pack, and single starts of `WeighedNights`."""

    lowered = False

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
        by_hours, count, starts = [] if self.once else self._by_hours(rows, price, soc, end_s), len(rows), ManyStarts(self)
        tries = by_hours if self.rough else [*by_hours, *starts.best(rows, price, soc, end_s)]
        nets = self.nets(tries, rows, price, end_s)
        able, begins = np.asarray(np.isfinite(nets).any(axis=0)), table(tries, count, lambda each: each.done.begin_s, -1.0)
        best = self.latest(nets, table(tries, count, lambda each: each.done.bill, 0.0), begins)
        chosen = picked(tries, best, np.arange(count)).done
        if (short := np.flatnonzero(~able)).size:
            nothing = without_blocks(short, self.courses(rows[short], soc[rows[short]], []))
            tries = [*by_hours, starts.highest(rows, soc, end_s, short), nothing]
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
        lower.aim_at(target_soc, as_much(target_soc))
        least, able = lower._best(rows[short], price, soc, end_s)
        chosen.put(short[able], least.at(np.flatnonzero(able)))

    @staticmethod
    def _put_highest(chosen: Courses, short: Ints, tries: Sequence[Tried], count: int) -> None:
        """Of what leaves as much as any the cheapest, for nights that fall short."""
        level = table(tries, count, lambda each: each.done.level_soc, -1.0)[:, short]
        bills = table(tries, count, lambda each: each.done.bill, np.inf)[:, short]
        cheapest = np.where(level >= as_much(level.max(axis=0)), bills, np.inf).argmin(axis=0)
        chosen.put(short, picked(tries, cheapest, short).done)

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
        best = self.nets(tries, rows, price, end_s).argmin(axis=0)
        nights, done, begin, end = picked(tries, best, np.arange(len(rows)))
        net, going = self.net(done, rows, price, end_s), np.flatnonzero((end - begin > REAL_S).sum(axis=1) > 1)
        for _ in range(MOVES if going.size and not self.rough else 0):
            begins, ends, count = neighbours(
                begin[going], end[going], done.done_s[going], end_s[rows[going]], self.nights.plug_in_s[rows[going]] % GRID_S
            )
            night, each = np.tile(rows[going], count), np.arange(len(going))
            others = self._enough(night, soc[night], begins, ends)
            nets = self.net(others, night, price, end_s).reshape(count, -1)
            best = nets.argmin(axis=0)
            better = nets[best, each] < net[going] - 1e-9
            number, going = (best * len(going) + each)[better], going[better]
            if not going.size:
                break
            done.put(going, others.at(number))
            net[going], begin[going], end[going] = nets.ravel()[number], begins[number], ends[number]
        return Tried(nights, done, begin, end)

    def _enough(self, night: Ints, soc: Array, begin: Array, end: Array) -> Courses:
        """Blocks of some nights, the last of which begins as much sooner as is missing: see `ScheduleSearch.moved`."""
        done, real = self._in_blocks(night, soc, begin, end), end - begin > REAL_S
        short = np.flatnonzero(~np.isfinite(done.reached_s) & (real.sum(axis=1) > 1) & self.tapers)
        if short.size:
            last = np.where(real, begin, -1.0)[short].argmax(axis=1)
            missing_s = S_PER_H * missing_h(self.hung.car, self.hung.rate, done.highest_soc, self.full_soc[night])[short]
            begin[short, last] = np.maximum(0.0, begin[short, last] - missing_s)
            done.put(short, self._in_blocks(night[short], soc[short], begin[short], end[short]))
        return done

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
