"""What a charge point is to carry out: the next night on which a car charges, as Tonight has it, for who can draw any hours."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime

from ...core.charge.control import Control
from ...core.charge.night import NightPlan, NightRequest
from ...core.charge.supply import charge_rate
from ...core.coming.car_week import Span
from ...core.coming.night import need_limit
from ...core.errors import Refusal
from ...core.home import NotSetUp
from ...core.parts import Outlet
from ...household.snapshot import Snapshot
from ..shared.coming import ahead_of
from .started import started_of


@dataclass(frozen=True, kw_only=True)
class Carried:
    """A car's night as it is asked of a point: from now on, at this outlet; the level (0 to 1) that it needs to leave with; the plan as it
    was made before anybody plugged in; when the cable is its own (None: on none of these nights); and whether nothing may flow until
    what was noted of the start is put right.
    """

    request: NightRequest
    need_soc: float
    plan: NightPlan
    span: Span | None
    blocked: bool

    def has_turn(self, moment: datetime) -> bool:
        """Whether the cable is its own at a moment."""
        return self.span is not None and self.span.begin_s <= moment.timestamp() < self.span.end_s


def carried(snapshot: Snapshot, car_id: int, outlet: Outlet) -> Carried | None:
    """The night of a car on an outlet, from this minute on; None where nothing can be planned for it, it is
    elsewhere, or it leaves in this minute.
    """
    try:
        ahead = ahead_of(snapshot, car_id)
        number = ahead.next_charge
        night, now = ahead.night(number), snapshot.minute
        asked, owned = night.evening.request, ahead.now.owned
        rate = asked.rate if owned.at.id == outlet.id else charge_rate(outlet.supply, asked.car)
        blocked = started_of(ahead.now.started, outlet, asked.car).blocked
        need = min(asked.target_soc, max(0.0, need_limit(ahead.tonight, owned.habit.reserve)))
    except (Refusal, NotSetUp):
        return None
    if asked.departure <= now or night.stay.away is not None:
        return None
    request = replace(
        asked, now=now.astimezone(UTC), plug_in=now.astimezone(UTC), departure=asked.departure.astimezone(UTC),
        unplug=None if asked.unplug is None or asked.unplug <= now else asked.unplug.astimezone(UTC),
        soc=ahead.now.soc, rate=rate, held=outlet.held, control=Control(),
    )  # fmt: skip
    return Carried(request=request, need_soc=need, plan=night.plan, span=ahead.turns[number].span, blocked=blocked)
