"""A pack's own life from the log: month by month what its levels, temperatures and cycles exposed it to, and what of it wears how much.

Why: docs/decisions/0042.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..units import Array
from .ageing import S_PER_DAY, Exposure, Stretch, exposure, losses, standing_exposure
from .cold import Chemistry
from .cycles import rainflow
from .trend import Course

MIDDLE_SOC = figure("wear.middle_level", 0.5, "", Basis.COMMON_PRACTICE, "standing at this level is what standing costs at least")
MILD_C = figure("wear.mild", 20.0, "°C", Basis.COMMON_PRACTICE, "what a warmer pack loses more counts as heat")
STEP_S = 6 * 3600.0
MONTH_DAYS = 365.25 / 12
LEAST_CYCLE = 0.005
PARTS = ("own", "mild", "middle")
CAUSES = ("standing", "level", "heat", "cycling", "cold")


@dataclass(frozen=True, eq=False, kw_only=True)
class Lived:
    """What a life adds up to by month; each `Exposure` of shape (months,), `days` the length of each month.

    `own` is the life as it was; `mild` the same at 20 °C at most; `middle` also at a level of 50 %.
    """

    days: Array
    own: Exposure
    mild: Exposure
    middle: Exposure

    def then(self, later: "Lived", times: int = 1) -> "Lived":
        """Another life after it, so many times over."""
        return Lived(
            days=np.concatenate([self.days, *[later.days] * times]),
            **{name: getattr(self, name).then(getattr(later, name), times) for name in PARTS},
        )

    def last(self, months: int) -> "Lived":
        """Its latest months."""
        latest = {name: Exposure(*(each[-months:] for each in vars(getattr(self, name)).values())) for name in PARTS}
        return Lived(days=self.days[-months:], **latest)

    @property
    def whole(self) -> Exposure:
        """The own life as a single stretch."""
        return self.own.grouped(np.array([0]))

    def per_day(self) -> "Lived":
        """A single mean day of it."""
        total = float(self.days.sum())

        def mean(each: Exposure) -> Exposure:
            cycling = each.cycling.sum()
            cold = (each.cold * each.cycling).sum() / cycling if cycling > 0 else 0.0
            return Exposure(*(np.array([value]) for value in (each.calendar.sum() / total, cycling / total, cold)))

        return Lived(days=np.ones(1), own=mean(self.own), mild=mean(self.mild), middle=mean(self.middle))

    def months_of(self, days: float) -> "Lived":
        """A single mean day of it (`per_day`) lived for so many days, in months."""
        whole = int(days // MONTH_DAYS)
        lengths = np.array([*[MONTH_DAYS] * whole, *([days - whole * MONTH_DAYS] if days > whole * MONTH_DAYS + 1e-6 else [])])

        def long(each: Exposure) -> Exposure:
            return Exposure(each.calendar * lengths, each.cycling * lengths, each.cold * np.ones(len(lengths)))

        return Lived(days=lengths, own=long(self.own), mild=long(self.mild), middle=long(self.middle))

    def course(self, chemistry: Chemistry) -> Course:
        """The model's loss by age, unscaled, for `trend.fit`."""
        loss = losses(chemistry, self.own).total
        return Course(np.concatenate([[0.0], np.cumsum(self.days)]), np.concatenate([[0.0], loss]))

    def causes(self, chemistry: Chemistry) -> Mapping[str, Array]:
        """Loss by the end of each month by cause, unscaled: standing at 50 % in mild air, what the level and what heat add to it, cycling,
        charging cold; shape (months,) each. They add up to the whole.
        """
        own = losses(chemistry, self.own)
        mild, middle = losses(chemistry, self.mild).calendar, losses(chemistry, self.middle).calendar
        parts = (middle, mild - middle, own.calendar - mild, own.cycling, own.cold)
        return dict(zip(CAUSES, parts, strict=True))


def lived(
    chemistry: Chemistry, at_s: Array, soc: Array, around_c: Callable[[Array], Array], edges_s: Array, *, c_rate: float
) -> Lived:
    """The life between the first and the last of some edges (s since 1970, ascending): the months between them.

    `at_s` and `soc` (0 to 1) are the level's course, linear between its points; `around_c` gives the pack's temperature (°C) at times;
    `c_rate` (1/h) is that of its charges. Cycles are counted by rainflow; each belongs to the month in which it closes.
    """
    grid = np.arange(edges_s[0] + STEP_S / 2, edges_s[-1], STEP_S)
    warmth, level = around_c(grid), np.interp(grid, at_s, soc)
    depth, mean, count, _, place = rainflow(soc).T
    closed = at_s[place.astype(int)]
    inside = (closed >= edges_s[0]) & (closed < edges_s[-1]) & (depth >= LEAST_CYCLE)
    depth, mean, count, closed = (each[inside] for each in (depth, mean, count, closed))
    times = np.concatenate([grid, closed])
    order = np.argsort(times, kind="stable")
    standing, cycling = np.zeros(len(grid)), np.zeros(len(closed))

    def column(of_standing: Array, of_cycle: Array) -> Array:
        return np.concatenate([of_standing, of_cycle])[order]

    cold_c = around_c(closed)
    life = Stretch(
        days=column(standing + STEP_S / S_PER_DAY, cycling),
        temp_c=column(warmth, cold_c),
        soc=column(level, mean),
        full_cycles=column(standing, depth * count),
        dod=column(standing, np.clip(depth, 0.0, 1.0)),
        mean_soc=column(level, mean),
        c_rate=c_rate,
        charge_c=column(warmth, cold_c),
    )
    month = np.searchsorted(edges_s, times[order], side="right") - 1
    first = np.searchsorted(month, np.arange(len(edges_s) - 1))
    own = exposure(chemistry, life)

    def standing_at(temp_c: Array, level: Array) -> Exposure:
        return Exposure(standing_exposure(chemistry, life.days, temp_c, level), own.cycling, own.cold).grouped(first)

    mild_c = np.minimum(life.temp_c, MILD_C)
    return Lived(
        days=np.diff(edges_s) / S_PER_DAY,
        own=own.grouped(first),
        mild=standing_at(mild_c, np.asarray(life.soc)),
        middle=standing_at(mild_c, np.full(len(order), MIDDLE_SOC)),
    )
