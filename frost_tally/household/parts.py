"""The parts of a home written: each takes plain values by column, and says no when a part is not there."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import event, inspect, select
from sqlalchemy.orm import Session

from ..core.charge.stop_table import Post
from ..core.charge.supply import Supply
from ..core.charge.tariff import Band
from ..core.drive.learn import Learnt
from ..core.errors import Missing, Refusal
from ..core.heat.own_minutes import WarmNote
from ..core.home import HouseUse
from ..core.parts import BatteryFacts
from .models import (
    BandRow,
    BatteryRow,
    CarRow,
    DepartureRow,
    DriveRow,
    HabitRow,
    HouseholdRow,
    LearntRow,
    OutletRow,
    PersonRow,
    PlaceRow,
    PresentRow,
    SmallBatteryRow,
    TariffRow,
    WayRow,
)
from .undo import Decision

AS_NEW, MEASURED = 1.0, "health as it was measured"
USED_AS, MOST_BEFORE = ("warm_up", "cabin_c", "people"), 200
KINDS: Mapping[str, Any] = {"car": CarRow, "outlet": OutletRow, "place": PlaceRow, "person": PersonRow, "way": WayRow}


def in_order(session: Session, kind: type[Any]) -> list[Any]:
    """All rows of a kind that were not put away, in the order they were entered."""
    return list(session.scalars(select(kind).where(kind.withdrawn.is_(False)).order_by(kind.id)))


def household_row(session: Session) -> HouseholdRow:
    """The household's row, which every decision finds."""
    return session.get_one(HouseholdRow, 1)


def car_row(session: Session, car_id: int) -> CarRow:
    """A car that is not put away. Raises: Refusal."""
    row = session.get(CarRow, car_id)
    if row is None or row.withdrawn:
        raise Missing("There is no such car.", "car")
    return row


def set_values(row: Any, values: Mapping[str, Any]) -> None:
    """Set columns of a row by name; those of a car's habit there."""
    for name, value in values.items():
        setattr(row.habit if isinstance(row, CarRow) and name in HabitRow.__table__.columns else row, name, value)


def part_row(session: Session, kind: str, number: int) -> Any:
    """A part that is not put away. Raises: Refusal when there is none."""
    found = session.get(KINDS[kind], number)
    if found is None or found.withdrawn:
        raise Refusal("There is no such part; it may have been put away.")
    return found


def part_values(session: Session, kind: str, number: int) -> dict[str, Any]:
    """All columns of a part by name, with those of a car's habit. Raises: Refusal when there is none."""
    row = part_row(session, kind, number)
    parts = (row.habit, row) if isinstance(row, CarRow) else (row,)
    return {column.key: getattr(each, column.key) for each in parts for column in each.__table__.columns}


def write_part(session: Session, kind: str, number: int | None, values: Mapping[str, Any]) -> int:
    """Write a part, a new one (None) or over what it was; returns its number. Raises: Refusal when it is gone."""
    if number is None:
        row = CarRow(habit=HabitRow()) if kind == "car" else KINDS[kind]()
        session.add(row)
    else:
        row = part_row(session, kind, number)
    set_values(row, values)
    session.flush()
    return int(row.id)


def put_part_away(session: Session, kind: str, number: int) -> str:
    """Put a part away; returns its name. Raises: Refusal when something still needs it."""
    row = part_row(session, kind, number)
    users = {
        "outlet": [car.name for car in in_order(session, CarRow) if car.habit.outlet_id == number],
        "place": [
            each.name for each in (*in_order(session, OutletRow), *in_order(session, DepartureRow)) if each.place_id == number
        ],
    }.get(kind, [])
    if users:
        raise Refusal(f"“{row.name}” is still used by {', '.join(users)}: move that first.")
    if len(in_order(session, KINDS[kind])) == 1:
        raise Refusal(f"“{row.name}” is the only one there is: change it instead.")
    row.withdrawn = True
    return str(row.name)


def write_habit(session: Session, car_id: int, **columns: object) -> str:
    """Change some columns of a car's habit; returns its name. Raises: Refusal when it is gone."""
    row = car_row(session, car_id)
    set_values(row.habit, columns)
    return str(row.name)


@event.listens_for(Decision, "before_flush")
def _keep_told(session: Decision, *_: object) -> None:
    """A health that somebody typed is one that was told then; what plans were made to reckon with is none."""
    cars = [each for each in (*session.new, *session.dirty) if isinstance(each, CarRow) and not session.info.get(MEASURED)]
    for row in cars:
        if inspect(row).attrs.soh.history.has_changes() and (row in session.dirty or row.soh != AS_NEW):
            row.soh_told, row.soh_told_at = row.soh, session.at


@event.listens_for(Decision, "before_flush")
def _keep_before(session: Decision, *_: object) -> None:
    """A habit that is changed stays that of the days before: they were driven as it was then."""
    for row in session.dirty:
        if isinstance(row, HabitRow) and not inspect(row).attrs.before.history.has_changes():
            was = {name: inspect(row).attrs[name].history for name in USED_AS}
            driven = select(DriveRow.id).where(DriveRow.car_id == row.car_id).limit(1)
            if any(each.has_changes() for each in was.values()) and session.connection().execute(driven).first():
                values = [each.deleted[0] if each.deleted else getattr(row, name) for name, each in was.items()]
                row.before = [*row.before, [session.at.isoformat(), *values]][-MOST_BEFORE:]


def write_held_hours(session: Session, car_id: int, **columns: object) -> None:
    """Change when the house leaves a car's outlet less."""
    outlet = car_row(session, car_id).habit.outlet
    if outlet is not None:
        set_values(outlet, columns)


def write_outside(session: Session, at: datetime, out_now_c: float, out_low_c: float) -> None:
    """Keep outside temperatures as they were typed at a time: of then, and the low of the morning after it, °C."""
    row = session.get(PresentRow, 1) or PresentRow(id=1)
    row.typed_at, row.out_now_c, row.out_low_c = at, out_now_c, out_low_c
    session.add(row)


def write_house(session: Session, use: HouseUse) -> None:
    """Keep what the house uses."""
    row = household_row(session)
    row.house_kwh, row.house_shape, row.shift = list(use.kwh), use.shape, use.shift


def write_learnt(session: Session, car_id: int, found: Learnt) -> str:
    """Keep what a car's log taught; returns its name."""
    row = car_row(session, car_id)
    kept = session.get(LearntRow, car_id) or LearntRow(car_id=car_id)
    kept.base, kept.heat, kept.cold = found.factors.base, found.factors.heat, found.factors.cold
    kept.base_sigma, kept.heat_sigma, kept.cold_sigma = found.sigma
    kept.day_sigma, kept.days = found.factors.day_sigma, found.days
    kept.before, kept.after = found.error_before, found.error_after
    kept.pack_heat, kept.pack_heat_days = found.factors.pack_heat, found.heat_trips
    session.add(kept)
    return str(row.name)


def write_health(session: Session, car_id: int, soh: float) -> None:
    """Let a car's battery have a health (0 to 1)."""
    session.info[MEASURED] = True
    car_row(session, car_id).soh = soh


def write_curve(session: Session, car_id: int, points: Sequence[tuple[float, float]]) -> None:
    """Keep a car's own curve of fast charging: levels (0 to 1) and kW; none: the usual one."""
    car_row(session, car_id).fast_points = [[level, kw] for level, kw in points]


def write_warm_notes(session: Session, car_id: int, notes: Sequence[WarmNote]) -> None:
    """Keep how long a car took to warm its pack."""
    car_row(session, car_id).warm_notes = [[each.minutes, each.soak_c, each.kwh] for each in notes]


def write_battery(session: Session, car_id: int, entered: BatteryFacts) -> None:
    """Keep what was entered of a car's battery."""
    row = car_row(session, car_id)
    row.battery = row.battery or BatteryRow()
    set_values(row.battery, vars(entered))


def write_twelve_volt(session: Session, car_id: int, values: Mapping[str, object]) -> None:
    """Keep what was entered of a car's 12 V battery and tank, only the given fields."""
    row = car_row(session, car_id)
    row.small_battery = row.small_battery or SmallBatteryRow(kind="unknown", tops_up="unknown", boot="unknown")
    set_values(row.small_battery, values)


def write_way(
    session: Session,
    number: int | None,
    *,
    name: str,
    km: float,
    country_km: float,
    limit_kmh: float | None,
    posts: Iterable[Post],
) -> int:
    """Keep a long way with its posts, a new one when None; returns its number."""
    kept = [[each.km, each.kw, each.price_per_kwh, each.name, each.stands_min, each.shared_kw] for each in posts]
    values = {"name": name, "km": km, "country_km": country_km, "limit_kmh": limit_kmh, "posts": kept, "withdrawn": False}
    known = number if number is not None and session.get(WayRow, number) is not None else None
    row = WayRow() if known is None else session.get_one(WayRow, known)
    set_values(row, values)
    session.add(row)
    session.flush()
    return row.id


def first_car(session: Session, car_id: int | None) -> CarRow | None:
    """A car, the first when None; None without any."""
    return next((each for each in in_order(session, CarRow) if car_id in (None, each.id)), None)


def write_first_car(session: Session, car_id: int | None, values: Mapping[str, Any], another: bool = False) -> int:
    """Set up a car, a new one where there is none yet, or `another` one; returns its number."""
    row = None if another else first_car(session, car_id)
    if row is None:
        row = CarRow(habit=HabitRow())
        session.add(row)
    set_values(row, values)
    session.flush()
    return row.id


def write_charging(
    session: Session, car_id: int | None, supply: Supply, tariff: tuple[str, tuple[Band, ...]], *, typical: bool, feed: str
) -> None:
    """Set up a car's outlet and tariff (name and bands; `typical` prices are nobody's own, dated ones come by a `feed`)."""
    habit = _first(session, car_id).habit
    habit.outlet = habit.outlet or OutletRow()
    set_values(habit.outlet, {**vars(supply), "code": supply.code.value, "shared_a": habit.outlet.shared_a or 0.0})
    habit.tariff = habit.tariff or TariffRow()
    habit.tariff.name, habit.tariff.bands = tariff[0], band_rows(tariff[1])
    habit.tariff.typical, habit.tariff.feed = typical, feed


def share_charging(session: Session, car_id: int, with_car: int) -> None:
    """Let a car hang on the cable of another, on its tariff."""
    other = car_row(session, with_car).habit
    set_values(car_row(session, car_id).habit, {"outlet_id": other.outlet_id, "tariff_id": other.tariff_id})


def _first(session: Session, car_id: int | None) -> CarRow:
    found = first_car(session, car_id)
    if found is None:
        raise Missing("There is no such car.", "car")
    return found


def write_place_and_day(
    session: Session,
    car_id: int | None,
    place: Mapping[str, Any],
    *,
    habit: Mapping[str, Any],
    now: datetime,
    outside: Mapping[str, float],
) -> int:
    """Set up where a car stands, its usual day, and what it is outside now; setting up is complete then. Returns the car's number."""
    row = _first(session, car_id)
    outlet, places = row.habit.outlet, in_order(session, PlaceRow)
    own = (outlet.place if outlet is not None else None) or (places[0] if places else PlaceRow())
    set_values(own, place)
    session.add(own)
    for each in in_order(session, OutletRow):
        each.place = each.place or own
    set_values(row.habit, habit)
    write_outside(session, now, **outside)
    household_row(session).complete = True
    return row.id


def write_preferences(session: Session, values: Mapping[str, str]) -> None:
    """The units and money of the first person; the contracts' money too, unless this person counts in another."""
    people = in_order(session, PersonRow)
    person = people[0] if people else PersonRow(name="Everyone")
    own_money = bool(people) and person.per_contract != 1.0
    set_values(person, {name: value for name, value in values.items() if name != "currency" or not own_money})
    session.add(person)
    if not own_money:
        household_row(session).currency = person.currency


def band_rows(bands: Iterable[Band]) -> list[BandRow]:
    """The rows of a tariff's bands."""
    return [
        BandRow(name=each.name, price_per_kwh=each.price_per_kwh, start=each.start, end=each.end, days=digits(each.days))
        for each in bands
    ]


def digits(days: Iterable[int]) -> str:
    """Days of the week as digits, 0 = Monday."""
    return "".join(str(day) for day in sorted(days))
