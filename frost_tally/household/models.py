"""Tables. No logic here: repositories turn rows into core objects."""

from datetime import UTC, date, datetime, time

from sqlalchemy import JSON, CheckConstraint, DateTime, Dialect, ForeignKey, Index
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import TypeDecorator


class Moment(TypeDecorator[datetime]):
    """An aware time, stored in UTC."""

    impl = DateTime
    cache_ok = True
    python_type = datetime

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """Base of all tables."""


class HouseholdRow(Base):
    """The one household: its contracts' money, how the outside temperature is known, what the house uses.

    `revision` grows with every change; `house_kwh` holds twelve monthly figures or none.
    """

    __tablename__ = "household"
    __table_args__ = (CheckConstraint("id = 1"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int] = mapped_column(default=1)
    currency: Mapped[str] = mapped_column(default="EUR")
    weather: Mapped[str] = mapped_column(default="typed")
    out_now_c: Mapped[float] = mapped_column(default=0.0)
    out_low_c: Mapped[float] = mapped_column(default=-5.0)
    complete: Mapped[bool] = mapped_column(default=False)
    clock: Mapped[datetime | None] = mapped_column(Moment, default=None)
    house_kwh: Mapped[list[float]] = mapped_column(JSON, default=list)
    house_shape: Mapped[str] = mapped_column(default="evening")
    shift: Mapped[float] = mapped_column(default=0.0)


class PlaceRow(Base):
    """Where cars stand: clock, altitude, kind of garage, and mean temperatures of January and July."""

    __tablename__ = "place"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    zone: Mapped[str]
    altitude_m: Mapped[float] = mapped_column(default=0.0)
    garage: Mapped[str] = mapped_column(default="outdoor")
    garage_heated_c: Mapped[float] = mapped_column(default=10.0)
    january_c: Mapped[float] = mapped_column(default=-4.0)
    july_c: Mapped[float] = mapped_column(default=16.0)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class PersonRow(Base):
    """Somebody's units; `per_contract` is how much of their money one of the contracts' is worth."""

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    distance_unit: Mapped[str] = mapped_column(default="km")
    temperature_unit: Mapped[str] = mapped_column(default="C")
    pressure_unit: Mapped[str] = mapped_column(default="kPa")
    currency: Mapped[str] = mapped_column(default="EUR")
    per_contract: Mapped[float] = mapped_column(default=1.0)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class OutletRow(Base):
    """A wall unit or socket; `install_cost` is what it would cost to have, 0 when it is there."""

    __tablename__ = "outlet"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    voltage_v: Mapped[float]
    phases: Mapped[int]
    breaker_a: Mapped[float]
    code: Mapped[str]
    cable_a: Mapped[float | None]
    selector_a: Mapped[float | None]
    car_setting_a: Mapped[float | None]
    shared_a: Mapped[float] = mapped_column(default=0.0)
    shared_with: Mapped[str] = mapped_column(default="")
    install_cost: Mapped[float] = mapped_column(default=0.0)
    place_id: Mapped[int | None] = mapped_column(ForeignKey("place.id"), default=None)
    withdrawn: Mapped[bool] = mapped_column(default=False)
    place: Mapped[PlaceRow | None] = relationship(lazy="joined")


class TariffRow(Base):
    """A price plan: the usual week's bands, seasons, dates; `feed` names where dated prices are fetched from."""

    __tablename__ = "tariff"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    standing_per_day: Mapped[float] = mapped_column(default=0.0)
    holiday_region: Mapped[str] = mapped_column(default="")
    valid_from: Mapped[date | None] = mapped_column(default=None)
    valid_to: Mapped[date | None] = mapped_column(default=None)
    following_id: Mapped[int | None] = mapped_column(ForeignKey("tariff.id"), default=None)
    feed: Mapped[str] = mapped_column(default="")
    withdrawn: Mapped[bool] = mapped_column(default=False)
    bands: Mapped[list["BandRow"]] = relationship(cascade="all, delete-orphan", order_by="BandRow.id", lazy="selectin")
    seasons: Mapped[list["SeasonRow"]] = relationship(cascade="all, delete-orphan", order_by="SeasonRow.id", lazy="selectin")


class BandRow(Base):
    """One band of the usual week: `days` as digits, 0 = Monday, 7 = public holiday."""

    __tablename__ = "tariff_band"
    id: Mapped[int] = mapped_column(primary_key=True)
    tariff_id: Mapped[int] = mapped_column(ForeignKey("tariff.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    price_per_kwh: Mapped[float]
    start: Mapped[time]
    end: Mapped[time]
    days: Mapped[str] = mapped_column(default="0123456")


class SeasonRow(Base):
    """A week of its own: `first` and `last` as [month, day], `bands` as [name, price, start, end, days]."""

    __tablename__ = "season"
    id: Mapped[int] = mapped_column(primary_key=True)
    tariff_id: Mapped[int] = mapped_column(ForeignKey("tariff.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    first: Mapped[list[int]] = mapped_column(JSON)
    last: Mapped[list[int]] = mapped_column(JSON)
    bands: Mapped[list[list[object]]] = mapped_column(JSON)


class PriceRow(Base):
    """A dated price of a tariff; `start_s` in seconds since 1970, UTC."""

    __tablename__ = "price"
    __table_args__ = {"sqlite_with_rowid": False}  # noqa: RUF012 - SQLAlchemy reads it so
    tariff_id: Mapped[int] = mapped_column(ForeignKey("tariff.id", ondelete="CASCADE"), primary_key=True)
    start_s: Mapped[int] = mapped_column(primary_key=True)
    minutes: Mapped[int]
    price_per_kwh: Mapped[float]


class ReadingRow(Base):
    """What the house's meter counted in an interval; `start_s` in seconds since 1970, UTC."""

    __tablename__ = "reading"
    start_s: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    minutes: Mapped[int]
    kwh: Mapped[float]


class UndoRow(Base):
    """What some rows were before a change: see `household.undo`."""

    __tablename__ = "undo"
    __table_args__ = {"sqlite_autoincrement": True}  # noqa: RUF012 - a number is never used twice
    id: Mapped[int] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(Moment)
    words: Mapped[str]
    before: Mapped[list[dict[str, object]]] = mapped_column(JSON)


class PendingRow(Base):
    """A file that was shown in a preview and waits to be taken over."""

    __tablename__ = "pending"
    id: Mapped[str] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(Moment)
    kind: Mapped[str]
    about: Mapped[dict[str, object]] = mapped_column(JSON)
    content: Mapped[bytes]


class CarRow(Base):
    """A car, its tyre reading, its habits and its usual day."""

    __tablename__ = "car"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    preset: Mapped[str]
    chemistry: Mapped[str]
    usable_kwh_new: Mapped[float]
    soh: Mapped[float]
    pack_heater_kw: Mapped[float]
    preheats: Mapped[str]
    drive_heat_to_c: Mapped[float | None]
    mass_kg: Mapped[float]
    drag_area_m2: Mapped[float]
    cabin_heater_kw: Mapped[float]
    heat_pump: Mapped[bool]
    ac_limit_a: Mapped[float]
    ac_phases: Mapped[int]
    ac_limit_kw: Mapped[float]
    placard_kpa: Mapped[float]
    rolling_coefficient: Mapped[float]
    winter_tyres: Mapped[bool]
    tyre_kpa: Mapped[float]
    tyre_read_c: Mapped[float]
    outlet_id: Mapped[int | None] = mapped_column(ForeignKey("outlet.id"))
    tariff_id: Mapped[int | None] = mapped_column(ForeignKey("tariff.id"))
    habit_limit: Mapped[float] = mapped_column(default=0.8)
    reserve: Mapped[float] = mapped_column(default=0.1)
    floor: Mapped[float] = mapped_column(default=0.2)
    warm_up: Mapped[str] = mapped_column(default="cabin")
    depart: Mapped[time] = mapped_column(default=time(7, 0))
    plug_in: Mapped[time] = mapped_column(default=time(18, 0))
    town_km: Mapped[float] = mapped_column(default=10.0)
    country_km: Mapped[float] = mapped_column(default=20.0)
    motorway_km: Mapped[float] = mapped_column(default=30.0)
    motorway_kmh: Mapped[float] = mapped_column(default=110.0)
    parked_h: Mapped[float] = mapped_column(default=8.0)
    people: Mapped[int] = mapped_column(default=1)
    cabin_c: Mapped[float] = mapped_column(default=20.0)
    soc_now: Mapped[float] = mapped_column(default=0.5)
    soc_read_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    days_a_week: Mapped[float] = mapped_column(default=7.0)
    learnt_base: Mapped[float] = mapped_column(default=1.0)
    learnt_heat: Mapped[float] = mapped_column(default=1.0)
    learnt_cold: Mapped[float] = mapped_column(default=1.0)
    learnt_before: Mapped[float] = mapped_column(default=0.0)
    learnt_after: Mapped[float] = mapped_column(default=0.0)
    learnt_days: Mapped[int] = mapped_column(default=0)
    learnt_day_sigma: Mapped[float | None] = mapped_column(default=None)
    learnt_base_sigma: Mapped[float | None] = mapped_column(default=None)
    learnt_heat_sigma: Mapped[float | None] = mapped_column(default=None)
    learnt_cold_sigma: Mapped[float | None] = mapped_column(default=None)
    withdrawn: Mapped[bool] = mapped_column(default=False)
    outlet: Mapped[OutletRow | None] = relationship(lazy="joined")
    tariff: Mapped[TariffRow | None] = relationship(lazy="joined")


class TyreRow(Base):
    """One wheel's cold or warm reading; the wheels of one look share `read_at`."""

    __tablename__ = "tyre"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    read_at: Mapped[datetime] = mapped_column(Moment)
    wheel: Mapped[str]
    kpa: Mapped[float]
    tyre_c: Mapped[float]
    warm: Mapped[bool] = mapped_column(default=False)
    source: Mapped[str] = mapped_column(default="gauge")


class DayRow(Base):
    """A day kept to start from: its kilometres, traffic, climb and what is on the car."""

    __tablename__ = "usual_day"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    levers: Mapped[dict[str, object]] = mapped_column(JSON)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class DepartureRow(Base):
    """When a car leaves: weekly on `days` (digits, 0 = Monday), or once `on_date`; not on holidays of a `region`, if any.

    `warm_up` is "advised" or a choice; `since` is when it was first entered, `uid` its name in calendars.
    """

    __tablename__ = "departure"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    uid: Mapped[str]
    name: Mapped[str]
    at: Mapped[time]
    days: Mapped[str] = mapped_column(default="")
    on_date: Mapped[date | None] = mapped_column(default=None)
    region: Mapped[str] = mapped_column(default="")
    warm_up: Mapped[str] = mapped_column(default="advised")
    km: Mapped[float] = mapped_column(default=20.0)
    since: Mapped[date]
    withdrawn: Mapped[bool] = mapped_column(default=False)


class LeavingRow(Base):
    """What became of a departure: `left`, or `missed` and switched off after warming for nothing with `kwh`."""

    __tablename__ = "leaving"
    __table_args__ = (Index("ix_leaving_car_due", "car_id", "due_at", unique=True),)
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    name: Mapped[str]
    due_at: Mapped[datetime] = mapped_column(Moment)
    outcome: Mapped[str]
    kwh: Mapped[float] = mapped_column(default=0.0)
    source: Mapped[str] = mapped_column(default="owner")


class NightRow(Base):
    """A kept plan, and beside it what happened; `start_…` are pack and cabin at departure as planned (°C)."""

    __tablename__ = "night"
    __table_args__ = (Index("ix_night_car_departure", "car_id", "departure"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    kept_at: Mapped[datetime] = mapped_column(Moment)
    departure: Mapped[datetime] = mapped_column(Moment)
    sentence: Mapped[str]
    km: Mapped[float]
    soc_start: Mapped[float]
    soc_departure: Mapped[float]
    arrival_low: Mapped[float]
    arrival_likely: Mapped[float]
    arrival_high: Mapped[float]
    wall_kwh: Mapped[float]
    cost: Mapped[float]
    levers: Mapped[dict[str, object]] = mapped_column(JSON)
    withdrawn: Mapped[bool] = mapped_column(default=False)
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("night.id"), default=None)
    start_pack_c: Mapped[float | None] = mapped_column(default=None)
    start_cabin_c: Mapped[float | None] = mapped_column(default=None)
    actual_departure: Mapped[float | None] = mapped_column(default=None)
    actual_arrival: Mapped[float | None] = mapped_column(default=None)
    noted_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
