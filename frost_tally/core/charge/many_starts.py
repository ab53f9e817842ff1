"""The single starts of many nights (docs/decisions/0053)."""

from typing import NamedTuple, TypeVar

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


class StartCourses(NamedTuple):
    """Starts of some nights (s, shape (nights, starts)), which of them can be made, and what becomes of those, row by row."""

    begin_s: Array
    able: Flags
    done: Courses

    @property
    def number(self) -> Ints:
        """The place of each start in `done`."""
        return _table(self.able, np.arange(np.count_nonzero(self.able)), 0)

    def at(self, nights: Ints) -> "StartCourses":
        """Those of some of the nights."""
        able = self.able[nights]
        return StartCourses(self.begin_s[nights], able, self.done.at(self.number[nights][able]))


class ManyStarts:
    """The starts of some nights of all: the best of each, and where none is enough the highest."""

    def __init__(self, nights: WeighedNights) -> None:
        self.all = nights
        self.tried: StartCourses | None = None

    def best(self, rows: Ints, price: Array, soc: Array, end_s: Array) -> list[Tried]:
        """The best of each night's starts: every one that its control allows; between those that are tried first, those near the best."""
        # where nothing tapers and the house leaves all hours, hours by price run on through what is dear as a single start would
        if not self.all.once and (
            self.all.late or not (self.all.tapers or self.all.house.spans) or not self.all.unequal[rows].any()
        ):
            return []
        begin_s, able = self._quarter_hours(rows)
        self.tried = self._every(rows, soc, end_s, begin_s, able)
        best, near = self._best_start(rows, price, soc, end_s, self.tried)
        if not self._finer:
            return [without_blocks(np.arange(len(rows)), best)]
        top = np.take_along_axis(begin_s, np.argsort(near, axis=1)[:, :NEAREST], axis=1)
        # the first start after the house's hours may lie between two quarter hours
        opens = [end[rows, None] for _, end in self.all.house.closed]
        near = self._on_steps(
            rows, np.concatenate([(top[:, :, None] + AROUND * self.all.step_s).reshape(len(rows), -1), *opens], axis=1)
        )
        nearest = self._best_start(rows, price, soc, end_s, self._every(rows, soc, end_s, near, near >= 0))[0]
        return [without_blocks(np.arange(len(rows)), each) for each in (best, nearest)]

    @property
    def _finer(self) -> bool:
        """Whether a start may fall between two quarter hours."""
        return bool(self.all.step_s % CELL_S) and not self.all.hung.control.only

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

    def _every(self, rows: Ints, soc: Array, end_s: Array, begin_s: Array, able: Flags) -> StartCourses:
        """What becomes of some starts of each night that are before its end, where the house gives something."""
        able = able & (begin_s < end_s[rows, None] - 60.0) & self.all.house.open_at(rows, begin_s)
        row, place = np.nonzero(able)
        night, start_s = rows[row], begin_s[row, place]
        drawn = self.all.house.drawn(night, start_s, self.all.house.until(night, start_s, end_s[night]))
        return StartCourses(begin_s, able, self.all.courses(night, soc[night], drawn))

    def _best_start(self, rows: Ints, price: Array, soc: Array, end_s: Array, every: StartCourses) -> tuple[Courses, Array]:
        """Of some starts of each night the best, and by what they are nearest to it: what each comes to, after all that reach the limit
        the higher ones (inf: not able).
        """
        begin_s, able, done = every
        nets = self.all.net(done, rows[np.nonzero(able)[0]], price, end_s)
        net, cost = _table(able, nets, np.inf), _table(able, done.bill, 0.0)
        best = self.all.latest(net.T, cost.T, begin_s.T)
        number = every.number[np.arange(len(rows)), best]
        chosen = done.at(number) if len(nets) else self.all.courses(rows, soc[rows], [])
        chosen.reached_s[~np.isfinite(net.min(axis=1))] = np.inf
        return chosen, _table(able, np.where(np.isfinite(nets), nets, SHORT - done.highest_soc), np.inf)

    def highest(self, rows: Ints, soc: Array, end_s: Array, short: Ints) -> Tried:
        """Of those of some nights (`short`: their places) that reach the limit by no schedule: of single starts that leave the most the
        cheapest, the last of equals; those that were tried for the best, or every step of the control's clock.
        """
        if self.tried is None or self._finer:
            begin_s, able = self._quarter_hours(rows[short])
            if self._finer:
                begin_s = self._on_steps(rows[short], np.arange(0.0, begin_s.max(initial=0.0) + 1.0, self.all.step_s)[None])
                able = begin_s < self.all.stay_s[rows[short], None]
            every = self._every(rows[short], soc, end_s, begin_s, able)
        else:
            every = self.tried.at(short)
        some = np.flatnonzero(every.able.any(axis=1))
        able, done = every.able[some], every.done
        level, bill = _table(able, done.level_soc, -1.0), _table(able, done.bill, np.inf)
        bill = np.where(level >= as_much(level.max(axis=1))[:, None], bill, np.inf)
        cheapest = able.shape[1] - 1 - np.argmin(bill[:, ::-1], axis=1)
        return without_blocks(short[some], done.at(every.number[some, cheapest]))


def _table(able: Flags, values: Values, otherwise: float) -> Values:
    """Values of what is able, row by row, in a table of all; the others get another value."""
    found = np.full(able.shape, otherwise, dtype=values.dtype)
    found[able] = values
    return found
