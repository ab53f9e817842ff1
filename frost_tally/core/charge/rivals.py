"""The plans beside the one that is kept, each worked out when somebody asks for it."""

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from ..units import S_PER_H
from .night_clock import Schedule
from .plan import NightPlan, NightRequest, Rival

if TYPE_CHECKING:
    from .night import _Night


@dataclass(frozen=True)
class Others:
    """The plans beside the one that is kept (`plan.OtherPlans`); `whole` are those of the night of which this is what is left, where
    nothing is drawn yet: what they say of a later start stays true. Hours that have passed do not count any more (`by_order`).
    """

    night: "_Night"
    made: Schedule
    deadline_s: float
    frosty: bool
    whole: "Others | None" = None

    def by_order(self, order: str) -> Rival:
        """See `plan.OtherPlans`."""
        search, other = self.night.search, self.made
        if self.night.request.plugged and search.need_kwh > 0:
            at_once = order == "first"
            other = search.from_start(0.0, self.deadline_s) if at_once else search.by_price(self.deadline_s, "late", order)
        return self.night.rival(other, self.made)

    def late(self) -> Rival:
        """See `plan.OtherPlans`."""
        if self.whole:
            return self.whole.late()
        return self.night.rival(self.night.search.by_price(self.deadline_s, "late"), self.made)

    def cheapest(self) -> Rival:
        """See `plan.OtherPlans`."""
        if self.whole:
            return self.whole.cheapest()
        if self.night.able is None:  # the rest of a plan, for which nothing was weighed anew
            self.night.best(self.deadline_s)
        return self.night.rival(min(self.night.able or [], key=self.night.weighing.cost, default=self.made), self.made)

    def rest(self, request: NightRequest) -> NightPlan | None:
        """See `NightPlan.rest`."""
        return self.night.rest(request, self)

    def an_hour_late(self) -> tuple[float, float]:
        """See `plan.OtherPlans`."""
        night, search = self.night, self.night.search
        if self.whole:
            return self.whole.an_hour_late()
        if not self.made.intervals:
            return 0.0, 0.0
        after_s = self.made.intervals[0][0] + S_PER_H
        others = [search.idle] if search.one_start else [search.by_price(self.deadline_s, "late", "cheapest", after_s)]
        later = night.every.after(after_s) if search.one_start or self.frosty else None
        if later is not None and later < self.deadline_s:
            others.append(search.from_start(later, self.deadline_s))
        best = min(
            others, key=lambda each: (not search.reaches(each), 0 if search.reaches(each) else -each.highest_soc, each.bill)
        )
        dearer = night.weighing.cost(search.told(best)) - night.weighing.cost(self.made)
        return dearer, max(0.0, self.made.highest_soc - best.highest_soc)

    @property
    def latest_plug_in(self) -> datetime:
        """See `plan.OtherPlans`; on the quarter hour in frost."""
        search, made = self.night.search, self.made
        if self.whole:
            return max(search.clock.start, self.whole.latest_plug_in)
        latest_s = max(0.0, self.deadline_s - made.drawn_s)
        if (self.frosty or search.clock.held) and search.reaches(made):
            latest_s = self.night.every.latest(self.deadline_s)
        return search.clock.moment(min(latest_s, search.clock.end_s))
