"""The cold season at the place: when it begins, tonight's frost, what is to be done and was done; and what other rooms say of it."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache

import numpy as np

from ...core.errors import Refusal
from ...core.home import OfCar, OwnedCar
from ...core.log.kinds import Entry
from ...core.park.season import FROST_C, ITEMS, REFILLS, Dates, Item, due, season_of, summer_before
from ...core.park.washer import MARGIN_K, TANK_L
from ...household.log import write_entry
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ...world import Weather
from ..log_entry.room import whole
from ..shared.climate import climate_of, daily, lowest_of, weather_ahead
from ..shared.derived import in_this_minute
from ..shared.facts import season_done
from .twelve_volt import twelve_volt

LONG_STAND, HISTORY = timedelta(days=6), timedelta(days=5 * 366)
COUNTED_YEARS = 5


@lru_cache(maxsize=16)
def winter_at(weather: Weather, today: date) -> Dates:
    """The coming (or present) winter's dates at a place; the year turns in the middle of its summer."""
    _, means = daily(weather, date(today.year, 1, 1), 365)
    summer = summer_before(today, means)
    years = [daily(weather, summer.replace(year=summer.year - i), 330) for i in range(COUNTED_YEARS)]
    return season_of(summer, [low for low, _ in years], [mean for _, mean in years])


def coming_low(weather: Weather, now: datetime, hours: float = 14.0) -> float:
    """The lowest air temperature of the coming hours, °C."""
    return min(weather.temperature_c(now + timedelta(hours=h)) for h in np.arange(0.0, hours + 0.5, 1.0).tolist())


@dataclass(frozen=True, kw_only=True)
class Task:
    """An item with when it is due (None: this evening, or never here), when it was done this season and by whom, and its earlier times."""

    item: Item
    due: date | None
    done: date | None
    who: str
    before: tuple[date, ...]
    entry: int


@dataclass(frozen=True, kw_only=True)
class Season(OfCar):
    """The list of a car: the winter's dates, tonight's low, its tasks of the season and of this evening, how cold washer fluid must stand
    (°C) and how much of it a winter takes (L).
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    dates: Dates
    today: date
    low_c: float
    tasks: tuple[Task, ...]
    evening: tuple[Task, ...]
    coldest_c: float
    mix_l: float
    people: tuple[str, ...]

    @property
    def frost_tonight(self) -> bool:
        """Whether the coming night is a frost."""
        return self.low_c <= FROST_C

    @property
    def first(self) -> bool:
        """Whether nothing of it was ever noted for this car: what is done, nobody knows yet."""
        return not any(each.done or each.before for each in (*self.tasks, *self.evening))

    @property
    def open(self) -> tuple[Task, ...]:
        """What is not done yet, the earliest due first."""
        return tuple(sorted((each for each in self.tasks if each.done is None), key=lambda each: each.due or date.max))

    @property
    def overdue(self) -> tuple[Task, ...]:
        """What should have been done by today."""
        return tuple(each for each in self.open if each.due is not None and each.due <= self.today)


def season(snapshot: Snapshot, car_id: int | None = None) -> Season:
    """The season list of a car (the first when None). Raises: NotSetUp."""
    return in_this_minute(snapshot, ("season", car_id), lambda: _season(snapshot, snapshot.home.car(car_id)))


def _season(snapshot: Snapshot, owned: OwnedCar) -> Season:
    weather, today = climate_of(snapshot, owned.place), snapshot.minute.astimezone(owned.zone).date()
    dates, done = winter_at(weather, today), _done(snapshot, owned)
    made = [_task(each, dates, done.get(each.key, []), today) for each in ITEMS.values()]
    return Season(
        owned=owned, cars=snapshot.home.names, dates=dates, today=today, low_c=_tonight(snapshot, owned),
        tasks=tuple(sorted((each for each in made if each.item.lead_days is not None), key=lambda each: each.due or date.max)),
        evening=tuple(each for each in made if each.item.lead_days is None),
        coldest_c=lowest_of(weather, datetime(dates.summer.year, dates.summer.month, dates.summer.day, tzinfo=UTC), 330) - MARGIN_K,
        mix_l=(owned.twelve_volt.tank_l or TANK_L) * REFILLS, people=tuple(each.name for each in snapshot.home.people),
    )  # fmt: skip


def _tonight(snapshot: Snapshot, owned: OwnedCar) -> float:
    """The coming night's low, °C."""
    return coming_low(weather_ahead(snapshot, owned), snapshot.minute)


def _done(snapshot: Snapshot, owned: OwnedCar) -> dict[str, list[tuple[date, str, int]]]:
    """When each item was done in the last five years, by whom, and the entry's number, the latest last."""
    found: dict[str, list[tuple[date, str, int]]] = {}
    for at, item, who, number in season_done(snapshot, owned.id, snapshot.minute - HISTORY):
        found.setdefault(item, []).append((at.astimezone(owned.zone).date(), who, number))
    return found


def _task(item: Item, dates: Dates, done: list[tuple[date, str, int]], today: date) -> Task:
    """An item of the season counts as done since summer, one of an evening on this very day."""
    since = dates.summer if item.lead_days is not None else today
    now = [each for each in done if each[0] >= since]
    last = now[-1] if now else (None, "", 0)
    return Task(
        item=item,
        due=due(item, dates),
        done=last[0],
        who=last[1],
        before=tuple(each[0] for each in reversed(done) if each[0] < since)[:4],
        entry=last[2],
    )


def tick(
    household: Household,
    now: datetime,
    car_id: int,
    keys: tuple[str, ...],
    titles: Mapping[str, str],
    *,
    who: str,
    words: str,
    seen_revision: int,
) -> int:
    """Note items as done now, in one decision; those that are done already stay. Returns its undo number. Raises: Refusal; Stale."""
    unknown = [key for key in keys if key not in ITEMS]
    if unknown or not keys:
        raise Refusal("There is no such item on the list.")
    with household.deciding(words, seen_revision) as session:
        made = season(household.as_decided(session, now), car_id)
        open_ones = {each.item.key for each in (*made.tasks, *made.evening) if each.done is None}
        for key in keys:
            if key in open_ones:
                values = whole("season", {"at": now, "item": key, "note": titles[key], "who": who})
                write_entry(session, Entry(kind="season", car_id=car_id, values=values), now)
    return session.number


@dataclass(frozen=True, kw_only=True)
class Matters:
    """What the other rooms say of the winter in a line: number and minutes of things to do this evening before frost (0: none), overdue
    items of the season and whether it is the first, what the 12 V battery wants ("" when it is fine), days until the next listed
    departure when that is long (else 0).
    """

    low_c: float
    evening: int
    minutes: int
    overdue: int
    first: bool
    twelve_volt: str
    stands_days: int


def what_matters(snapshot: Snapshot, car_id: int | None = None) -> Matters:
    """What matters of the winter for a car (the first when None) tonight. Raises: NotSetUp."""

    def work() -> Matters:
        now, made, battery = snapshot.minute, season(snapshot, car_id), twelve_volt(snapshot, car_id)
        coming = made.owned.next_departure(now)
        evening = [each for each in made.evening if each.done is None] if made.frost_tonight else []
        away = (coming - now).days if coming is not None and coming - now > LONG_STAND else 0
        known = bool(battery.readings) or battery.age_years is not None
        return Matters(
            low_c=made.low_c, evening=len(evening), minutes=sum(each.item.minutes for each in evening), overdue=len(made.overdue),
            first=made.first, stands_days=away,
            twelve_volt=battery.judged.care.value if known and battery.judged.care.value in ("charge", "replace") else "",
        )  # fmt: skip

    return in_this_minute(snapshot, ("winter matters", car_id), work)


WEEK_DAYS = 7


def lowest_ahead(snapshot: Snapshot, car_id: int) -> float:
    """The lowest air temperature of the coming week where a car stands, °C. Raises: NotSetUp."""
    return lowest_of(climate_of(snapshot, snapshot.home.car(car_id).place), snapshot.minute, WEEK_DAYS)
