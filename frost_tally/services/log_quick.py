"""The quick entry: a level and the clock's kilometres, and everything else from what is known, marked as assumed."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.charge.supply import charge_rate
from ..core.drive.again import driven_again
from ..core.errors import Refusal
from ..core.heat.schedule import last_before
from ..core.log.bill import priced
from ..core.log.check import check
from ..core.log.kinds import Entry
from ..core.log.quick import LEAST_KM, Known, fill
from ..formats.gpx import Track
from ..household.facts import level_known, tyres_now
from ..household.home import Home
from ..household.log import write_entry
from ..household.log_facts import facts, last_odometer
from ..household.models import CarRow, ReadingRow
from ..household.parts import car_of, cars, household, place_of, supply_of, tariff_of, trip_of
from ..household.plans import open_plan
from .climate import climate_of
from .evening import NotSetUp
from .log_entry import car_row, whole
from .measured import charging_car
from .past import days_of, habit_of


@dataclass(frozen=True, kw_only=True)
class Before:
    """What is known of a car before a quick entry: the level and when it was known, the odometer's kilometres, whether a plan is open."""

    car_id: int
    name: str
    soc: float | None
    soc_at: datetime | None
    odometer_km: float | None
    planned: bool
    zone: ZoneInfo


def before(home: Home, now: datetime, car_id: int | None = None) -> tuple[Before, tuple[tuple[int, str], ...]]:
    """What is known of a car (None: the one that a plan waits for, else the one that was noted last), and all cars.

    Raises: NotSetUp without a car.
    """
    with home.reading() as session:
        rows = cars(session)
        if not rows:
            raise NotSetUp
        chosen = next((each for each in rows if each.id == car_id), None) or _likely(session, rows, now)
        known, clock = level_known(session, chosen.id), last_odometer(session, chosen.id, now)
        return Before(
            car_id=chosen.id,
            name=chosen.name,
            soc=known[1] if known else None,
            soc_at=known[0] if known else None,
            odometer_km=clock.value if clock else None,
            planned=open_plan(session, chosen.id, now) is not None,
            zone=ZoneInfo(place_of(chosen, session).zone),
        ), tuple((each.id, each.name) for each in rows)


def _likely(session: Session, rows: list[CarRow], now: datetime) -> CarRow:
    """The car that came home: a plan waits for it, or else the first."""
    return next((each for each in rows if open_plan(session, each.id, now) is not None), rows[0])


@dataclass(frozen=True, kw_only=True)
class Noted:
    """What a quick entry noted: the car, the level, kilometres driven (None: none), and whether a charge was filled in."""

    name: str
    soc: float
    km: float | None
    charged: bool


def quick(
    home: Home,
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
    with home.deciding("", seen_revision) as session:
        row = car_row(session, car_id)
        made = _Told(session, row, now, soc, odometer_km)
        for each in made.entries():
            check(each.kind, each.values)
            stored = write_entry(session, each, now)
            if each.kind == "drive" and made.plan is not None:
                stored.plan_id, stored.start_pack_c, stored.start_cabin_c = (
                    made.plan.id,
                    made.plan.start_pack_c,
                    made.plan.start_cabin_c,
                )
                stored.assumed = sorted({*stored.assumed, "start_pack_c", "start_cabin_c"})
        session.words = say(made.noted())
    return session.number


class _Told:
    """What a level and some kilometres tell of a car."""

    def __init__(self, session: Session, row: CarRow, now: datetime, soc: float, odometer_km: float | None) -> None:
        self.session, self.row, self.now, self.soc, self.odometer_km = session, row, now, soc, odometer_km
        self.plan = open_plan(session, row.id, now)
        self.known = self._known()
        self.km = self._km(last_odometer(session, row.id, now))
        self.left_at = self._left_at()
        last = self.known[1] if self.known else None
        planned = self.plan.soc_departure if self.plan else None
        self.filled = fill(
            Known(
                last_soc=last,
                planned_soc=planned,
                limit=row.habit.limit,
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
        return min(1.0, self.known[1] + self._rate()[1] * hours / car_of(self.row).pack.usable_kwh)

    def _known(self) -> tuple[datetime, float] | None:
        """The level before it set off: the last known one, or the plan's own where somebody has read one since it came home."""
        known = level_known(self.session, self.row.id)
        if self.plan is not None and known is not None and known[0] > self.plan.departure:
            return self.plan.kept_at, self.plan.soc_start
        return known

    def _km(self, last: ReadingRow | None) -> float:
        """Kilometres that no drive accounts for yet; those of the plan where nobody read the clock."""
        if self.odometer_km is None or last is None:
            return self.plan.km if self.plan else 0.0
        if self.odometer_km < last.value - 0.05:
            raise Refusal("The odometer showed more before: check the kilometres.", "odometer")
        noted = facts(self.session, self.row.id, last.read_at, self.now)
        driven = sum(each.km or 0.0 for each in noted if each.kind == "drive" and each.ended_s > last.read_at.timestamp())
        return max(0.0, self.odometer_km - last.value - driven)

    def _left_at(self) -> datetime:
        """When it set off: as planned, else the habit's departure before now, but not before the level was known."""
        if self.plan:
            return self.plan.departure
        zone = ZoneInfo(place_of(self.row, self.session).zone)
        usual = last_before(self.now.astimezone(zone), self.row.habit.depart)
        return max(usual, self.known[0]) if self.known and self.known[0] <= self.now else min(usual, self.now)

    def _use(self) -> float:
        """What the model takes for the kilometres in the weather of the departure, level 0 to 1."""
        if self.km < LEAST_KM:
            return 0.0
        return model_use(self.session, self.row, self.km, self.left_at)

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
        return Entry(kind=kind, car_id=self.row.id, values=whole(kind, values), assumed=frozenset(assumed))

    def _charge(self, to: float) -> Entry:
        """The charge before the drive: as planned, else in the last plugged-in hours before it set off."""
        start = self.known[1] if self.known else 0.0
        rate, capacity = self._rate(), car_of(self.row).pack.usable_kwh
        pack_kwh = (to - start) * capacity
        drawn = [block for block in self.plan.blocks if block.kind == "charge"] if self.plan else []
        drives = self.filled.left_with is not None
        end = drawn[-1].end if drawn else (self.left_at if drives else self.now)
        hours = pack_kwh / rate[1]
        begun = drawn[0].begin if drawn else end - timedelta(hours=hours)
        if self.known is not None:
            begun = min(max(begun, self.known[0]), end)
        wall_kwh = round(pack_kwh / rate[1] * rate[0], 2)
        values = {
            "begun_at": begun, "ended_at": end, "site": "home", "outlet": self.row.habit.outlet_id, "soc_start": start, "soc_end": to,
            "wall_kwh": wall_kwh, "cost": self._cost(begun, end, wall_kwh),
        }  # fmt: skip
        read = () if drives else ("soc_end",)
        return self._entry(
            "charge", values, tuple(name for name, value in values.items() if value is not None and name not in read)
        )

    def _rate(self) -> tuple[float, float]:
        """Power at the wall and into the pack, kW."""
        if self.row.habit.outlet is None:
            return 1.0 / 0.88, 1.0
        rate = charge_rate(supply_of(self.row.habit.outlet), charging_car(self.session, self.row))
        return rate.wall_kw, max(0.1, rate.pack_kw)

    def _cost(self, begun: datetime, ended: datetime, wall_kwh: float) -> float | None:
        tariff = self.row.habit.tariff
        if tariff is None:
            return None
        place, house = place_of(self.row, self.session), household(self.session)
        span = begun - timedelta(hours=1), ended + timedelta(hours=1)
        cells = priced(tariff_of(self.session, tariff, house.currency, place.zone, span).cells(*span))
        return round(wall_kwh * float(cells.prices(begun.timestamp(), ended.timestamp())), 4)

    def noted(self) -> Noted:
        """What was noted, for whoever words it."""
        driven, charged = self.filled.left_with is not None, self.filled.charged_to is not None
        return Noted(name=self.row.name, soc=self.soc, km=self.km if driven else None, charged=charged)


def model_use(session: Session, row: CarRow, km: float, left_at: datetime) -> float:
    """What the model takes for some kilometres of a car's usual roads in the weather of a time, level 0 to 1."""
    place = place_of(row, session)
    at, one = left_at.astimezone(ZoneInfo(place.zone)), (np.array([km]), np.zeros(1))
    days = days_of(row.habit, place, tyres_now(session, row), [at], *one, [climate_of(session, place)])
    return float(driven_again(car_of(row), trip_of(row.habit), days, habit_of(row.habit, place.altitude_m))[0])


def note_track(home: Home, now: datetime, car_id: int, track: Track, words: str) -> int:
    """Note a track as a drive: its kilometres and times, its levels from the habit's limit by the model, assumed; returns the undo number.

    Raises: Refusal for a track without times.
    """
    if track.begun_s is None or track.ended_s is None:
        raise Refusal("The track has no times: enter the drive by hand.", "left_at")
    left, home_at = (datetime.fromtimestamp(each, UTC) for each in (track.begun_s, track.ended_s))
    with home.deciding(words) as session:
        row = car_row(session, car_id)
        start = row.habit.limit
        end = round(max(0.0, start - model_use(session, row, track.km, left)), 2)
        values = {"left_at": left, "home_at": home_at, "km": round(track.km, 1), "soc_start": start, "soc_end": end}
        made = Entry(
            kind="drive",
            car_id=row.id,
            values=whole("drive", values),
            assumed=frozenset(("soc_start", "soc_end")),
            source="assumed",
        )
        check(made.kind, made.values)
        write_entry(session, made, now)
    return session.number
