"""What it costs to charge a car on each of the coming nights, from plugging in or from a swap of the cable on.

Hours by price, or the best single start, for any span of a night; what frost, wear and the taper add is that of the year's cells
(docs/decisions/0053), which equal the planner's. Why: docs/decisions/0047.
"""

from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property, lru_cache

import numpy as np

from ..charge.charger import Charger
from ..charge.courses import Nights
from ..charge.many_nights import ManyNights
from ..charge.night_cells import NightCells, night_cells
from ..charge.plan import MARGIN_MIN
from ..charge.prices import PriceCells
from ..charge.tariff import Tariff
from ..units import Array, Ints

SHARES = (0.1, 0.3, 0.6, 1.0)
"""Of a charge from empty to the limit, for which frost and wear are looked up."""
SOME_H = 1.0


@dataclass(frozen=True, eq=False, kw_only=True)
class NightHours:
    """The hours of a night: `begin_s` and `end_s` (s since 1970) of the time in which it may charge, and its quarter hours."""

    charger: Charger
    begin_s: float
    end_s: float
    cells: NightCells
    _curves: dict[tuple[float, float], tuple[Array, Array]] = field(default_factory=dict)

    def charged(self, wanted_soc: Array, begin_s: float, end_s: float, most_soc: float = 1.0) -> tuple[Array, Array]:
        """Level added (0 to 1) in a span of the night (s since 1970) when so much is wanted, and the money of its hours; the whole night
        adds `most_soc` at most.
        """
        hours, money = self.curve(max(begin_s, self.begin_s), min(end_s, self.end_s))
        capacity, kw = self.charger.car.pack.usable_kwh, max(self.charger.rate.pack_kw, 1e-9)
        part = 1.0
        if most_soc < 1:
            part = most_soc * hours[-1] / max(self.curve(self.begin_s, self.end_s)[0][-1], 1e-9)
        added = np.minimum(np.maximum(wanted_soc, 0.0), min(hours[-1] * kw / capacity, part))
        return added, np.interp(added * capacity / kw, hours, money)

    def curve(self, begin_s: float, end_s: float) -> tuple[Array, Array]:
        """Hours at full power that a span has, and what so many cost at least, money."""
        key = begin_s, end_s
        if key not in self._curves:
            self._curves[key] = self._curve(begin_s, end_s) if end_s > begin_s else (np.zeros(1), np.zeros(1))
        return self._curves[key]

    @cached_property
    def _by_price(self) -> tuple[Array, Array, Array]:
        """The quarter hours in which something can be drawn, the cheapest first: when each begins (s since 1970), its hours at full power,
        and what they cost, money.
        """
        order = self.cells.late[0][self.cells.room_h[0][self.cells.late[0]] > 0]
        room_h, price = self.cells.room_h[0][order], self.cells.price[0][order]
        return self.begin_s + self.cells.from_s[0][order], room_h, room_h * price * self.charger.rate.wall_kw

    def _curve(self, begin_s: float, end_s: float) -> tuple[Array, Array]:
        """See `curve`; a span begins and ends with quarter hours, but for the night's own ends."""
        hung, window = self.charger, self.cells
        if not hung.control.kind.one_start:
            from_s, hours, money = self._by_price
            here = (from_s >= begin_s - 1.0) & (from_s < end_s - 1.0)
            return _summed(hours[here]), _summed(money[here])
        from_s = self.begin_s + window.from_s[0]
        room = np.where((from_s >= begin_s - 1.0) & (from_s < end_s - 1.0), window.room_h[0], 0.0)
        price = np.where(room > 0, window.price[0], 0.0) * hung.rate.wall_kw
        able = hung.control.of_day()[3 * window.local[0]] & (room > 0)
        able[np.argmax(room > 0)] |= hung.control.kind.on_plugging_in and bool(room.any())
        return _blocks(np.flatnonzero(able), room, price)


@dataclass(frozen=True, eq=False, kw_only=True)
class NightCosts:
    """A night's costs: those of its hours, and by the year's cells `add_soc` and `more`: levels, and what a charge of so much costs beyond
    its hours; `most_soc`: the most that comes in, from empty.
    """

    hours: NightHours
    add_soc: Array
    more: Array
    most_soc: float

    def charged(self, wanted_soc: Array, begin_s: float, end_s: float) -> tuple[Array, Array]:
        """Level added (0 to 1) in a span of the night (s since 1970) when so much is wanted, and the money with its wear."""
        added, money = self.hours.charged(wanted_soc, begin_s, end_s, self.most_soc)
        return added, money + np.interp(added, self.add_soc, self.more)


def _summed(values: Array) -> Array:
    """What the first so many come to, from none on."""
    found = np.zeros(len(values) + 1)
    np.cumsum(values, out=found[1:])
    return found


def _blocks(starts: Ints, room: Array, price: Array) -> tuple[Array, Array]:
    """Hours of one block, in quarter hours, and what the cheapest of so many costs; a block goes on until the first cell without room."""
    open_until = np.zeros(len(room), dtype=np.int64)
    until = len(room)
    for at in range(len(room) - 1, -1, -1):
        until = at if room[at] <= 0 else until
        open_until[at] = until
    hours, paid = _summed(room), _summed(room * price)
    if not len(starts):
        return np.zeros(1), np.zeros(1)
    longest = int((open_until[starts] - starts).max())
    found_h, found = [0.0], [0.0]
    for cells in range(1, longest + 1):
        these = starts[starts + cells <= open_until[starts]]
        money = paid[these + cells] - paid[these]
        best = int(np.argmin(money))
        found_h.append(max(found_h[-1], float(hours[these[best] + cells] - hours[these[best]])))
        found.append(float(money[best]))
    return np.array(found_h), np.array(found)


def night_hours(charger: Charger, begin_s: Array, end_s: Array, prices: PriceCells) -> tuple[NightHours, ...]:
    """The hours of a row of nights between two times each (s since 1970, shape (nights,)). Raises: Refusal as `night_cells`."""
    strength, dear = charger.of_day()
    cells = night_cells(begin_s, end_s, prices, strength=strength, dear=dear)
    each = enumerate(zip(begin_s.tolist(), end_s.tolist(), strict=True))
    return tuple(NightHours(charger=charger, begin_s=a, end_s=b, cells=cells.at(np.array([i]))) for i, (a, b) in each)


def night_costs(charger: Charger, nights: Nights, prices: PriceCells) -> tuple[NightCosts, ...]:
    """The costs of a row of nights of a car on a supply, charging up to the charger's limit. Raises: Refusal as `night_cells`."""
    count, limit = len(nights.plug_in_s), charger.limit_soc
    ends_s = np.maximum(nights.plug_in_s, nights.departure_s - 60.0 * MARGIN_MIN)
    rows, wanted = np.tile(np.arange(count), len(SHARES)), np.repeat(limit * np.array(SHARES), count)
    plain = night_hours(charger, nights.plug_in_s, ends_s, prices)
    base = np.array([each.charged(limit * np.array(SHARES), 0.0, np.inf)[1] for each in plain]).T
    whole = [each.curve(each.begin_s, each.end_s) for each in plain]
    price = np.array(
        [max(0.0, float(money[-1]) / (max(SOME_H, float(h[-1])) * charger.rate.pack_kw or 1.0)) for h, money in whole]
    )
    many = ManyNights(charger, nights.at(rows), prices, np.ones(len(rows), dtype=bool), rough=True)
    done = many.chosen(np.arange(len(rows)), price[rows], limit - wanted)
    cost, highest = (done.bill + done.wear).reshape(-1, count), done.highest_soc.reshape(-1, count)
    came = np.maximum(0.0, highest - (limit - wanted).reshape(-1, count))
    more = np.where(came >= wanted.reshape(-1, count) - 0.01, cost - base, np.nan)
    found = []
    for i, each in enumerate(plain):
        column = more[:, i]
        known = np.flatnonzero(np.isfinite(column))
        add = np.concatenate([[0.0], limit * np.array(SHARES)[known]])
        extra = np.concatenate([[0.0], column[known]])
        most_soc = 1.0 if len(known) == len(SHARES) else float(came[:, i].max())
        found.append(NightCosts(hours=each, add_soc=add, more=extra, most_soc=most_soc))
    return tuple(found)


@lru_cache(maxsize=32)
def costs_by_value(
    hung: Charger, columns: tuple[tuple[float, ...], ...], tariff: Tariff, begin: datetime, end: datetime
) -> tuple[NightCosts, ...]:
    """The costs of nights by value: plugging in and departure (s), pack, air and morning air (°C) of each."""
    plug_in_s, departure_s, pack_c, air_c, morning_c = (np.array(each) for each in columns)
    nights = Nights(
        plug_in_s=plug_in_s,
        departure_s=departure_s,
        use_kwh=np.zeros(len(pack_c)),
        pack_c=pack_c,
        air_c=air_c,
        morning_c=morning_c,
    )
    return night_costs(hung, nights, _cells(tariff, begin, end))


@lru_cache(maxsize=16)
def _cells(tariff: Tariff, begin: datetime, end: datetime) -> PriceCells:
    return tariff.cells(begin, end)
