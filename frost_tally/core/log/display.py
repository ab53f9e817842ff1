"""Whether a car's level display may have drifted: it learns its ends from rest at a low level and from full charges."""

from collections.abc import Mapping, Sequence
from enum import StrEnum
from math import hypot

import numpy as np

from ..basis import Basis, figure
from ..battery.everyday import Everyday
from .facts import Fact
from .idle_intervals import DAY_S, idle_intervals

LOW_SOC = figure("display.low", 0.5, "", Basis.COMMON_PRACTICE, "a display learns from rest under this level")
REST_H = figure(
    "display.rest", 4.0, "h", Basis.COMMON_PRACTICE, "of rest asleep, four to six, until the cells show where they are"
)
WITHIN_DAYS = figure("display.within", 30.0, "d", Basis.COMMON_PRACTICE, "a month without it, and calibrating is offered")
FEWEST, FEWEST_MONTHS, A_MONTH = 8, 3, 0.9


class Drifts(StrEnum):
    """Why the display may have drifted."""

    NEVER_LOW = "never_low"
    NO_REST = "no_rest"
    RATIO = "ratio"


def may_have_drifted(latest: Sequence[Fact], everyday: Mapping[str, Sequence[Everyday]]) -> Drifts | None:
    """Judge the latest month's entries (in the order of time) and the everyday estimates by kind; None: nothing speaks for it.

    A ratio has drifted when the latest month's capacity lies further than two standard deviations from the months before it.
    """
    if any(map(_jumped, everyday.values())):
        return Drifts.RATIO
    levels = [each for fact in latest for each in fact.levels if each is not None]
    if len(levels) < FEWEST or latest[-1].ended_s - latest[0].begun_s < A_MONTH * WITHIN_DAYS * DAY_S:
        return None  # a log of some days shows no month
    if min(levels) >= LOW_SOC:
        return Drifts.NEVER_LOW
    return None if _rested_low(latest) else Drifts.NO_REST


def _rested_low(facts: Sequence[Fact]) -> bool:
    """Whether it stood for hours with little in it, where a display finds its place."""
    low = (each for each in idle_intervals(facts) if max(each.was, each.now) < LOW_SOC)
    return any(each.days * DAY_S >= REST_H * 3600 for each in low)


def _jumped(estimates: Sequence[Everyday]) -> bool:
    """Whether the latest of some estimates lies further than two standard deviations from those before it, where these are enough."""
    if len(estimates) <= FEWEST_MONTHS:
        return False
    before = np.array([(each.kwh, each.sigma_kwh) for each in estimates[:-1]])
    say = before[:, 1] ** -2
    mean, sigma = float((before[:, 0] * say).sum() / say.sum()), float(say.sum() ** -0.5)
    return abs(estimates[-1].kwh - mean) > 2 * hypot(estimates[-1].sigma_kwh, sigma)
