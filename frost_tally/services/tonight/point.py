"""What the charge point of a car's outlet tells of this night, and what the runner decided in it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from ...core.charge.prices import PriceSlot
from ...core.charge.session import Session, Step
from ...core.charge.start_check import Current, StartCheck
from ...core.errors import Refusal
from ...core.live.heard import Heard
from ...core.live.lines import Line, standing_alarm
from ...core.parts import Outlet
from ...household import points
from ...household.points import FRESH, Flow
from ...household.points import Report as Report
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.derived import derived
from .room import Tonight

BEFORE = timedelta(hours=16)
"""A night is not longer."""


@dataclass(frozen=True, kw_only=True, eq=False)
class PointNow:
    """An outlet's point as it was heard last: whether it is heard now, which car is on its cable ("": none) and whether it is this one,
    what it told, since when the car is plugged in, what was drawn since then as a session and in kWh, the runner's lines of this night,
    the prices from then on, and whether as many amperes flow as were planned.
    """

    outlet: Outlet
    online: bool
    car: str
    own: bool
    heard: Heard
    since: datetime
    drawn: Session
    lines: Sequence[Line]
    prices: tuple[PriceSlot, ...]
    wall_kwh: float
    as_planned: bool

    @property
    def alarm(self) -> Line | None:
        """What somebody is told of, while nothing better came after it."""
        return standing_alarm(self.lines)


def point_now(snapshot: Snapshot, night: Tonight) -> PointNow | None:
    """The point of a car's outlet; None where it has none, or nobody heard it yet."""
    owned = night.owned
    if owned.outlet is None or not owned.outlet.point:
        return None
    outlet, now = owned.outlet, snapshot.now
    departure = night.plan.request.departure.astimezone(UTC)
    since = min(night.plan.start.astimezone(UTC), now.astimezone(UTC)) - BEFORE
    since = since.replace(minute=0, second=0, microsecond=0)  # asked once an hour
    what = "point", outlet, owned.id, departure, since

    def work() -> tuple[Report | None, Sequence[Flow], Sequence[Line]]:
        last, told = points.last_report(snapshot.log, outlet.id), points.stay_of(snapshot.log, owned.id, since)
        if (
            told and last is not None and last.car_id == owned.id
        ):  # the lines of this stay, also of before its departure was moved
            return last, told, points.lines_since(snapshot.log, owned.id, told[0].at - timedelta(minutes=1))
        return last, told, points.lines_of(snapshot.log, owned.id, departure)

    last, told, lines = derived(snapshot, what, work, ("point_report", "night_line"))
    if last is None:
        return None
    own = last.car_id == owned.id and last.heard.plugged
    begun = min([told[0].at, *(each.at for each in lines[:1])]) if told else night.plan.start.astimezone(UTC)
    return PointNow(
        outlet=outlet,
        online=is_heard(last, now),
        car=dict(snapshot.home.names).get(last.car_id or 0, "") if last.heard.plugged else "",
        own=own,
        heard=last.heard,
        since=begun,
        drawn=_session(told, begun),
        lines=lines,
        prices=tuple(night.plan.request.tariff.prices(begun, departure)) if begun < departure else (),
        wall_kwh=_counted(told),
        as_planned=StartCheck(amps=last.heard.amps).current(night.started.planned, night.started.circuit_a) is Current.AS_PLANNED,
    )


def _session(told: Sequence[Flow], begun: datetime) -> Session:
    """What was told, as a session from a moment on."""
    steps = [
        Step((each.at - begun).total_seconds(), each.level, 0.0, each.kw, each.kw) for each in told if each.level is not None
    ]
    return Session(tuple(steps), _counted(told), _counted(told), 0.0, 0.0)


def _counted(told: Sequence[Flow]) -> float:
    return told[-1].kwh - told[0].kwh if told else 0.0


def latest(snapshot: Snapshot, car_id: int) -> tuple[int, ...]:
    """Changes with whatever a point tells of a car or its outlet; () where there is no point."""
    owned = snapshot.home.ready_car(car_id)
    if owned.outlet is None or not owned.outlet.point:
        return ()
    return points.latest(snapshot.log, owned.id, owned.outlet.id)


def is_on_cable(household: Household, outlet_id: int, car_id: int) -> None:
    """Its owner says which car is on an outlet's cable. Raises: Refusal where nobody knows of a cable that is in, or of this car."""
    with household.recording() as session:
        last = points.last_report(session, outlet_id)
        if last is None or not last.heard.plugged:
            raise Refusal("No cable is in at that point by now.")
        here = household.world.clock.now().astimezone(UTC)
        told = replace(last, at=max(here, last.at), car_id=car_id, added=points.last_added(session, car_id), level=None)
        points.write_report(session, outlet_id, told)


def last_told(snapshot: Snapshot, outlet: Outlet) -> Report | None:
    """What an outlet's point told last; None where it never was heard."""
    return derived(snapshot, ("told last", outlet.id), lambda: points.last_report(snapshot.log, outlet.id), ("point_report",))


def is_heard(report: Report, now: datetime) -> bool:
    """Whether a point that told this last is heard now."""
    return report.online and now - report.at <= FRESH
