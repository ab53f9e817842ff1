"""The single starts of many nights (docs/decisions/0053)."""

from typing import TypeVar

import numpy as np

from ..units import S_PER_H, Array, Flags, Ints
from .courses import Courses
from .prices import CELL_S
from .schedules import as_much
from .tries import Tried, without_blocks
from .weighed_nights import WeighedNights

NEAREST, AROUND, SHORT = 4, np.arange(-2, 3), 1e9
FIVE_MIN_S = 300.0

Values = TypeVar("Values", Array, Ints)


class ManyStarts:
    """The starts of some nights of all: the best of each, and where none is enough the highest."""

    def __init__(self, nights: WeighedNights) -> None:
        self.all = nights

    def best(self, rows: Ints, price: Array, soc: Array, end_s: Array) -> list[Tried]:
        """The best of each night's starts: every one that its control allows; between those that are tried first, those near the best."""
        # where nothing tapers and the house leaves all hours, hours by price run on through what is dear as a single start would
        if not self.all.once and (
            self.all.late or not (self.all.tapers or self.all.house.spans) or not self.all.unequal[rows].any()
        ):
            return []
        begin_s, able = self._quarter_hours(rows)
        best, near = self._best_start(rows, price, soc, end_s=end_s, begin_s=begin_s, able=able)
        if self.all.step_s % CELL_S == 0 or self.all.hung.control.only:
            return [without_blocks(np.arange(len(rows)), best)]
        top = np.take_along_axis(begin_s, np.argsort(near, axis=1)[:, :NEAREST], axis=1)
        # the first start after the house's hours may lie between two quarter hours
        opens = [end[rows, None] for _, end in self.all.house.closed]
        near = self._on_steps(
            rows, np.concatenate([(top[:, :, None] + AROUND * self.all.step_s).reshape(len(rows), -1), *opens], axis=1)
        )
        nearest = self._best_start(rows, price, soc, end_s=end_s, begin_s=near, able=near >= 0)[0]
        return [without_blocks(np.arange(len(rows)), each) for each in (best, nearest)]

    def _on_steps(self, rows: Ints, begin_s: Array) -> Array:
        """The next steps of the control's clock at or after times of some nights."""
        plug_in_s = self.all.nights.plug_in_s[rows, None]
        return np.asarray(np.ceil((plug_in_s + begin_s) / self.all.step_s - 1e-9) * self.all.step_s - plug_in_s)

    def _quarter_hours(self, rows: Ints) -> tuple[Array, Flags]:
        """Plugging in and the quarter hours of each night (s), and which of them its control can start at; for a timer that is set once the
        times at which it is set.
        """
        control, window = self.all.hung.control, self.all.cells(rows, self.all.stay_s[rows])
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
        able = able & (begin_s < end_s[rows, None] - 60.0) & self.all.house.open_at(rows, begin_s)
        row, place = np.nonzero(able)
        night, start_s = rows[row], begin_s[row, place]
        drawn = self.all.house.drawn(night, start_s, self.all.house.until(night, start_s, end_s[night]))
        done = self.all.courses(night, soc[night], drawn)
        nets = self.all.net(done, night, price, end_s)
        net, cost = _table(able, nets, np.inf), _table(able, done.bill, 0.0)
        best, number = self.all.latest(net.T, cost.T, begin_s.T), _table(able, np.arange(len(row)), 0)
        chosen = done.at(number[np.arange(len(rows)), best]) if len(row) else self.all.courses(rows, soc[rows], [])
        chosen.reached_s[~np.isfinite(net.min(axis=1))] = np.inf
        return chosen, _table(able, np.where(np.isfinite(nets), nets, SHORT - done.highest_soc), np.inf)

    def highest(self, rows: Ints, soc: Array, end_s: Array) -> Courses:
        """Where no schedule reaches the limit: of single starts that leave the most the cheapest, the last of equals."""
        begin_s, able = self._quarter_hours(rows)
        if self.all.step_s % CELL_S and not self.all.hung.control.only:
            begin_s = self._on_steps(rows, np.arange(0.0, begin_s.max(initial=0.0) + 1.0, self.all.step_s)[None])
            able = begin_s < self.all.stay_s[rows, None]
        able &= self.all.house.open_at(rows, begin_s) & (begin_s < end_s[rows, None] - 60.0)
        none = ~able.any(axis=1) & np.full(len(able), self.all.once)
        able[~able.any(axis=1), 0] = True
        row, place = np.nonzero(able)
        night, start_s = rows[row], begin_s[row, place]
        until_s = np.where(none[row], start_s, self.all.house.until(night, start_s, end_s[night]))
        done = self.all.courses(night, soc[night], self.all.house.drawn(night, start_s, until_s))
        level, number = _table(able, done.level_soc, -1.0), _table(able, np.arange(len(row)), 0)
        bill = np.where(level >= as_much(level.max(axis=1))[:, None], _table(able, done.bill, np.inf), np.inf)
        cheapest = begin_s.shape[1] - 1 - np.argmin(bill[:, ::-1], axis=1)
        return done.at(number[np.arange(len(rows)), cheapest])


def _table(able: Flags, values: Values, otherwise: float) -> Values:
    """Values of what is able, row by row, in a table of all; the others get another value."""
    found = np.full(able.shape, otherwise, dtype=values.dtype)
    found[able] = values
    return found
