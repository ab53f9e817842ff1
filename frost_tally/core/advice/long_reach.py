"""How far a long day gets at best: each post charges to full and leaves a warm pack, however long that takes; further, no plan gets."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..charge.stop_table import Post
from ..drive.stages import stages
from .long_way import LongDay, LongDayRequest
from .worth import CAUTIOUS, DAY_DOUBT

BEYOND, WARM_C = 9.0, 35.0


@dataclass(frozen=True)
class Reach:
    """The most that any plan reaches: the likely level at the end (below 0: not reached), or the gap: from which mark (km) how far it goes
    with the reserve, and where the next mark is (0: there is no gap).
    """

    end_soc: float
    gap_from_km: float = 0.0
    as_far_as_km: float = 0.0
    gap_to_km: float = 0.0

    def gets_there(self, request: LongDayRequest) -> bool:
        """Whether a plan may get there with what is wanted at the end."""
        return not self.gap_to_km and self.end_soc >= request.end_soc


def farthest(request: LongDayRequest) -> Reach:
    """Drive from each mark that is reached, full where there is a post, as far as the cautious side keeps the reserve."""
    posts = sorted(request.posts, key=lambda each: each.km)
    marks = np.array([0.0, *(each.km for each in posts), request.way.distance_km])
    driven = stages(
        request.car,
        request.way,
        request.conditions,
        request.start.cabin_c,
        tuple(marks.tolist()),
        leaving_c=(request.start.pack_c, WARM_C),
        most_soc=BEYOND,
    )
    used, doubt, last = np.minimum(driven.used.min(axis=2), BEYOND), 1 + CAUTIOUS * DAY_DOUBT, len(marks) - 1
    used[0] = np.minimum(driven.used[0, :, 0], BEYOND)  # only the start's pack is as cold as it is
    level = np.full(len(marks), -1.0)
    level[0], reached = request.start.soc, 0
    for i in range(last):
        if level[i] < 0:
            continue
        reached = i
        if i > 0 and posts[i - 1].pack_kw(request.car) > 0:
            level[i] = 1.0
        until = _next_stop(posts, i, last)
        ahead = np.arange(i + 1, until + 1)
        able = ahead[level[i] - used[i, ahead] * doubt >= request.reserve_soc - 1e-9]
        level[able] = np.maximum(level[able], level[i] - used[i, able])
    if level[last] >= 0:
        return Reach(float(level[last]))
    until = _next_stop(posts, reached, last)
    there = np.concatenate([[0.0], used[reached, reached + 1 : until + 1] * doubt])
    as_far = float(np.interp(max(0.0, level[reached] - request.reserve_soc), there, marks[reached : until + 1]))
    return Reach(-1.0, float(marks[reached]), as_far, float(marks[reached + 1]))


def _next_stop(posts: Sequence[Post], i: int, last: int) -> int:
    """The next mark at which people stop anyway, after a mark: nobody drives past their own stop."""
    return next((j for j in range(i + 1, last) if posts[j - 1].stands_min > 0), last)


def stranded(request: LongDayRequest) -> LongDay:
    """The day that does not get there, and how far it does."""
    reach = farthest(request)
    return LongDay(
        request=request, stops=(), driving_min=0.0, standing_min=0.0, end_soc=max(0.0, reach.end_soc), end_low=0.0, end_high=0.0,
        used_kwh=0.0, charged_kwh=0.0, cost=0.0, reached=False, gap_from_km=reach.gap_from_km, as_far_as_km=reach.as_far_as_km,
        gap_to_km=reach.gap_to_km,
    )  # fmt: skip
