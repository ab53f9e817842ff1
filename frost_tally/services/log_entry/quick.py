"""The quick entry: a level and the clock's kilometres, and everything else from what is known, marked as assumed."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ...core.charge.supply import charge_rate
from ...core.errors import Refusal
from ...core.heat.schedule import last_before
from ...core.home import OfCar, OwnedCar
from ...core.log.bill import priced
from ...core.log.check import check
from ...core.log.kinds import Entry
from ...core.log.quick import LEAST_KM, Known, fill
from ...formats.gpx import Track
from ...household.facts import level_noted
from ...household.log import link_to_plan, write_entry
from ...household.log_facts import facts, last_odometer
from ...household.prices import with_prices
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.facts import level_known, unsaid_plan
from ..shared.measured import charging_car
from ..shared.past import model_use
from .room import whole


@dataclass(frozen=True, kw_only=True)
class Before(OfCar):
    """What is known of a car before a quick entry: the level and when it was known, the odometer's kilometres, whether a plan is open."""

    owned: OwnedCar
    soc: float | None
    soc_at: datetime | None
    odometer_km: float | None
    planned: bool


def before(snapshot: Snapshot, car_id: int | None = None) -> Before:
    """What is known of a car (None: the one that a plan waits for, else the first). Raises: NotSetUp without a car."""
    home, log, now = snapshot.home, snapshot.log, snapshot.now
    waiting = [each.id for each in home.cars if unsaid_plan(snapshot, each.id, now) is not None]
    numbers = [each.id for each in home.cars]
    owned = home.car(car_id if car_id in numbers else next(iter(waiting), None))
    known, clock = level_known(snapshot, owned.id), last_odometer(log, owned.id, now)
    return Before(
        owned=owned,
        soc=known[1] if known else None,
        soc_at=known[0] if known else None,
        odometer_km=clock[1] if clock else None,
        planned=owned.id in waiting,
    )


@dataclass(frozen=True, kw_only=True)
class Noted:
    """What a quick entry noted: the car, the level, kilometres driven (None: none), and whether a charge was filled in."""

    name: str
    soc: float
    km: float | None
    charged: bool


def quick(
    household: Household,
    now: datetime,
    car_id: int,
    soc: float,
    odometer_km: float | None,
    *,
    say: Callable[[Noted], str],
    seen_revision: int | None = None,
) -> int:
    """Note a level, and the odometer's kilometres if they were read, with the drive and the charge that follow from them; `say` words it.

    Returns the number to undo all of it by. Raises: Refusal with its field ("soc", "odometer"); Stale.
    """
    with household.deciding("", seen_revision) as session:
        made = _Told(household.as_decided(session, now), car_id, soc, odometer_km)
        for each in made.entries():
            check(each.kind, each.values)
            number = write_entry(session, each, now)
            if each.kind == "drive" and made.plan is not None:
                link_to_plan(session, number, made.plan)
        session.words = say(made.noted())
    return session.number


LATEST = timedelta(days=7)


class Already(RuntimeError):
    """It was noted before: what is sent twice is done once."""


def late(
    household: Household,
    now: datetime,
    car_id: int,
    at: datetime,
    soc: float,
    odometer_km: float | None,
    *,
    say: Callable[[Noted], str],
) -> None:
    """Note what was read without a network at a moment, as if it were noted then; only as readings where more is known of later.

    Raises: Already; Refusal with its field.
    """
    at = at.replace(microsecond=0)
    if not now - LATEST <= at <= now + timedelta(minutes=5):
        raise Refusal("It was read too long ago to be noted by itself: enter it by hand.", "at")
    with household.deciding("") as session:
        state = household.as_decided(session, at)
        if level_noted(session, car_id, at, soc):
            raise Already
        made = _Told(state, car_id, soc, odometer_km)
        later = made.known is not None and made.known[0] > at
        for each in (each for each in made.entries() if not later or each.kind in ("level", "odometer")):
            check(each.kind, each.values)
            write_entry(session, each, at)
        if later and not any(each.kind == "level" for each in made.entries()):
            write_entry(session, Entry(kind="level", car_id=car_id, values=whole("level", {"read_at": at, "value": soc})), at)
        session.words = say(made.noted())


class _Told:
    """What a level and some kilometres tell of a car."""

    def __init__(self, state: Snapshot, car_id: int, soc: float, odometer_km: float | None) -> None:
        self.state, self.owned, self.soc, self.odometer_km = state, state.home.car(car_id), soc, odometer_km
        self.log, self.now = state.log, state.now
        self.plan = unsaid_plan(state, car_id, self.now)
        self.known = self._known()
        self.km = self._km(last_odometer(self.log, car_id, self.now))
        self.left_at = self._left_at()
        last = self.known[1] if self.known else None
        planned = self.plan.soc_departure if self.plan else None
        self.filled = fill(
            Known(
                last_soc=last,
                planned_soc=planned,
                limit=self.owned.habit.limit,
                use_soc=self._use(),
                km=self.km,
                reach_soc=self._reach(),
            ),
            soc,
        )

    def _reach(self) -> float:
        """The level that the outlet can have charged to since the last one was known, until the car set off or now."""
        if self.known is None:
            return 1.0
        until = self.left_at if self.km >= LEAST_KM else self.now
        hours = max(0.0, (until - self.known[0]).total_seconds() / 3600)
        return min(1.0, self.known[1] + self._rate()[1] * hours / self.owned.car.pack.usable_kwh)

    def _known(self) -> tuple[datetime, float] | None:
        """The level before it set off: the last known one, or the plan's own where somebody has read one since it came home."""
        known = level_known(self.state, self.owned.id)
        if self.plan is not None and known is not None and known[0] > self.plan.departure:
            return self.plan.kept_at, self.plan.soc_start
        return known

    def _km(self, last: tuple[datetime, float] | None) -> float:
        """Kilometres that no drive accounts for yet; those of the plan where nobody read the clock."""
        if self.odometer_km is None or last is None:
            return self.plan.km if self.plan else 0.0
        read_at, read_km = last
        if self.odometer_km < read_km - 0.05:
            raise Refusal("The odometer showed more before: check the kilometres.", "odometer")
        noted = facts(self.log, self.owned.id, read_at, self.now)
        driven = sum(each.km or 0.0 for each in noted if each.kind == "drive" and each.ended_s > read_at.timestamp())
        return max(0.0, self.odometer_km - read_km - driven)

    def _left_at(self) -> datetime:
        """When it set off: as planned, else the habit's departure before now, but not before the level was known."""
        if self.plan:
            return self.plan.departure
        usual = last_before(self.now.astimezone(self.owned.zone), self.owned.habit.depart)
        return max(usual, self.known[0]) if self.known and self.known[0] <= self.now else min(usual, self.now)

    def _use(self) -> float:
        """What the model takes for the kilometres in the weather of the departure, level 0 to 1."""
        if self.km < LEAST_KM:
            return 0.0
        return model_use(self.state, self.owned, self.km, self.left_at)

    def entries(self) -> list[Entry]:
        """Everything to write down."""
        found = []
        if self.odometer_km is not None:
            found.append(self._entry("odometer", {"read_at": self.now, "value": self.odometer_km}, ()))
        if self.filled.charged_to is not None:
            found.append(self._charge(self.filled.charged_to))
        if self.filled.left_with is None:
            return [*found, self._entry("level", {"read_at": self.now, "value": self.soc}, ())]
        levels = {"soc_start": self.filled.left_with, "soc_end": self.soc}
        drive = {"left_at": self.left_at, "home_at": self.now, "km": round(self.km, 1), **levels}
        return [
            *found,
            self._entry("drive", drive, ("left_at", "home_at", "soc_start", *(() if self.odometer_km is not None else ("km",)))),
        ]

    def _entry(self, kind: str, values: dict[str, object], assumed: tuple[str, ...]) -> Entry:
        return Entry(kind=kind, car_id=self.owned.id, values=whole(kind, values), assumed=frozenset(assumed))

    def _charge(self, to: float) -> Entry:
        """The charge before the drive: as planned, else in the last plugged-in hours before it set off."""
        start = self.known[1] if self.known else 0.0
        rate, capacity = self._rate(), self.owned.car.pack.usable_kwh
        pack_kwh = (to - start) * capacity
        drawn = self.plan.charging if self.plan else ()
        drives = self.filled.left_with is not None
        end = drawn[-1].end if drawn else (self.left_at if drives else self.now)
        hours = pack_kwh / rate[1]
        begun = drawn[0].begin if drawn else end - timedelta(hours=hours)
        if self.known is not None:
            begun = min(max(begun, self.known[0]), end)
        wall_kwh = round(pack_kwh / rate[1] * rate[0], 2)
        values = {
            "begun_at": begun, "ended_at": end, "site": "home",
            "outlet": self.owned.outlet.id if self.owned.outlet else None, "soc_start": start, "soc_end": to,
            "wall_kwh": wall_kwh, "cost": self._cost(begun, end, wall_kwh),
        }  # fmt: skip
        read = () if drives else ("soc_end",)
        return self._entry(
            "charge", values, tuple(name for name, value in values.items() if value is not None and name not in read)
        )

    def _rate(self) -> tuple[float, float]:
        """Power at the wall and into the pack, kW."""
        car = charging_car(self.state, self.owned)
        if self.owned.outlet is None:
            return 1.0 / car.charger.efficiency, 1.0
        rate = charge_rate(self.owned.outlet.supply, car)
        return rate.wall_kw, max(0.1, rate.pack_kw)

    def _cost(self, begun: datetime, ended: datetime, wall_kwh: float) -> float | None:
        if self.owned.contract is None:
            return None
        span = begun - timedelta(hours=1), ended + timedelta(hours=1)
        cells = priced(with_prices(self.log, self.owned.contract, span).cells(*span))
        return round(wall_kwh * float(cells.prices(begun.timestamp(), ended.timestamp())), 4)

    def noted(self) -> Noted:
        """What was noted, for whoever words it."""
        driven, charged = self.filled.left_with is not None, self.filled.charged_to is not None
        return Noted(name=self.owned.name, soc=self.soc, km=self.km if driven else None, charged=charged)


def note_track(household: Household, now: datetime, car_id: int, track: Track, words: str) -> int:
    """Note a track as a drive: its kilometres and times, its levels from the habit's limit by the model, assumed; returns the undo number.

    Raises: Refusal for a track without times.
    """
    if track.begun_s is None or track.ended_s is None:
        raise Refusal("The track has no times: enter the drive by hand.", "left_at")
    left, home_at = (datetime.fromtimestamp(each, UTC) for each in (track.begun_s, track.ended_s))
    with household.deciding(words) as session:
        state = household.as_decided(session, now)
        owned = state.home.car(car_id)
        start = owned.habit.limit
        end = round(max(0.0, start - model_use(state, owned, track.km, left)), 2)
        values = {"left_at": left, "home_at": home_at, "km": round(track.km, 1), "soc_start": start, "soc_end": end}
        made = Entry(
            kind="drive",
            car_id=owned.id,
            values=whole("drive", values),
            assumed=frozenset(("soc_start", "soc_end")),
            source="assumed",
        )
        check(made.kind, made.values)
        write_entry(session, made, now)
    return session.number
