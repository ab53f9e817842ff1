"""Many nights' schedules simulated at once: what each costs, what it wears, and what it leaves."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields

import numpy as np

from ..car import Car
from ..units import S_PER_H, Array, Ints
from .prices import PriceCells
from .sessions import Drawn, simulate_all
from .supply import ChargeRate

STEP_S, WAIT_S, MOST_ROWS = 1800.0, 7200.0, 2400


@dataclass(frozen=True, kw_only=True)
class Nights:
    """What is known of a row of nights; arrays of shape (nights,).

    `plug_in_s`, `departure_s`: s since 1970, UTC, each night before the next; `use_kwh`: from the pack on the day after
    each departure; `pack_c`: when plugged in; `air_c`: mean air around the parked car; `morning_c`: air at departure, to which
    it goes in a straight line.
    """

    plug_in_s: Array
    departure_s: Array
    use_kwh: Array
    pack_c: Array
    air_c: Array
    morning_c: Array

    def at(self, rows: Ints) -> "Nights":
        """Some of them."""
        return Nights(**{name: column[rows] for name, column in vars(self).items()})

    @property
    def stay_s(self) -> Array:
        """How long each is, s."""
        return np.asarray(self.departure_s - self.plug_in_s)

    def around(self, rows: Ints, at_s: Array) -> Array:
        """Air around the car (°C) on some of the nights, each at a time after plugging in (s)."""
        left = 1.0 - at_s / np.maximum(self.stay_s[rows], 1.0)
        return np.asarray(self.morning_c[rows] + 2.0 * (self.air_c - self.morning_c)[rows] * left)


@dataclass(frozen=True, kw_only=True)
class Courses:
    """What becomes of some schedules, arrays of one shape: money and wear without the warm-up, energy at the wall and into the pack (kWh),
    the highest level and that at departure (0 to 1), the pack at departure (°C), how long was drawn, from when on and until when, and when
    a level was reached (s; inf for never).
    """

    bill: Array
    wear: Array
    wall_kwh: Array
    pack_kwh: Array
    highest_soc: Array
    level_soc: Array
    pack_c: Array
    drawn_s: Array
    begin_s: Array
    done_s: Array
    reached_s: Array

    def at(self, rows: Ints | tuple[Ints, Ints]) -> "Courses":
        """Some of them."""
        return Courses(**{each.name: getattr(self, each.name)[rows] for each in fields(self)})

    @staticmethod
    def joined(parts: Sequence["Courses"]) -> "Courses":
        """One after the other."""
        return Courses(**{each.name: np.concatenate([getattr(part, each.name) for part in parts]) for each in fields(Courses)})

    def put(self, rows: Ints, others: "Courses") -> None:
        """Take others in the place of some."""
        for each in fields(self):
            getattr(self, each.name)[rows] = getattr(others, each.name)


def courses(
    car: Car,
    rates: Sequence[ChargeRate],
    until_soc: Array,
    goal_soc: Array,
    pack_per_kwh: float,
    *,
    nights: Nights,
    prices: PriceCells,
    night: Ints,
    soc: Array,
    drawn: Sequence[Drawn],
    step_s: float = STEP_S,
) -> Courses:
    """Schedules of some nights (`night`: their numbers, shape (rows,)) from some levels, drawing in spans as `sessions.simulate_all` does
    until a level, in steps of `step_s` where it is warm enough and nothing tapers; `goal_soc` is the one whose time is told.
    """

    def part(rows: slice) -> tuple[Array, ...]:
        these, spans = night[rows], [(begin[rows], end[rows], which[rows]) for begin, end, which in drawn]
        around: Callable[[Ints, Array], Array] = lambda some, at_s: nights.around(these[some], at_s)  # noqa: E731
        paid: Callable[[Array], Array] = lambda at_s: prices.paid(nights.plug_in_s[these] + at_s)  # noqa: E731
        begun, lasts_s = (nights.pack_c[these], nights.stay_s[these])
        done = simulate_all(
            car,
            soc[rows],
            until_soc[rows],
            pack_c=begun,
            rates=rates,
            drawn=spans,
            end_s=lasts_s,
            air_c=around,
            step_s=step_s,
            wait_s=WAIT_S,
        )
        return (
            done.bill(paid),
            done.wear(pack_per_kwh) if pack_per_kwh > 0 else np.zeros(len(these)),
            done.wall_kwh,
            done.pack_kwh,
            done.highest_soc,
            done.soc[-1],
            done.pack_c[-1],
            np.asarray(S_PER_H * (done.hours * (done.wall_kw > 0)).sum(axis=0)),
            np.asarray(np.where(done.wall_kw > 0, done.at_s[:-1], np.inf).min(axis=0, initial=np.inf)),
            done.done_s,
            done.reached_s(goal_soc[rows]),
        )

    parts = [part(slice(first, first + MOST_ROWS)) for first in range(0, max(1, len(night)), MOST_ROWS)]
    columns = [np.concatenate(column) for column in zip(*parts, strict=True)]
    return Courses(**{each.name: column for each, column in zip(fields(Courses), columns, strict=True)})
