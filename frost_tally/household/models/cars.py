"""A car: what it is, how it is used, what its log taught, and when it leaves."""

from datetime import date, datetime, time
from typing import Any

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column, relationship

from ...core.car import Car
from ...core.parts import BatteryFacts, Habit, TwelveVoltFacts
from .base import Base, Moment, kept
from .contracts import OutletRow, TariffRow


class CarRow(Base, kept(Car)):  # type: ignore[misc]
    """A car's specification; `warm_notes` are minutes, °C and kWh (or none) of warm-ups that its owner timed, `soh_told` the
    health that somebody typed, and when; `soh` is what plans reckon with.
    """

    __tablename__ = "car"
    id: Mapped[int] = mapped_column(primary_key=True)
    preset: Mapped[str]
    soh_told: Mapped[float | None] = mapped_column(default=None)
    soh_told_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    fast_points: Mapped[list[list[float]]] = mapped_column(JSON, default=list, server_default="[]")
    warm_notes: Mapped[list[list[float | None]]] = mapped_column(JSON, default=list, server_default="[]")
    withdrawn: Mapped[bool] = mapped_column(default=False)
    habit: Mapped["HabitRow"] = relationship(lazy="joined", cascade="all, delete-orphan", passive_deletes=True)
    small_battery: Mapped["SmallBatteryRow | None"] = relationship(
        lazy="joined", cascade="all, delete-orphan", passive_deletes=True
    )
    battery: Mapped["BatteryRow | None"] = relationship(lazy="joined", cascade="all, delete-orphan", passive_deletes=True)
    learnt: Mapped["LearntRow | None"] = relationship(lazy="joined", cascade="all, delete-orphan", passive_deletes=True)


class HabitRow(Base, kept(Habit)):  # type: ignore[misc]
    """How a car is used on ordinary days: what it hangs on, its limits, its usual day (km by road there and back).

    `control` says how its nights are carried out ("hand", "timer" of `timer_step` minutes, "linked"), `awake_…` when somebody is awake;
    `charges` whether it is charged to the limit every time ("shallow") or only as much as the day needs ("as_needed"), `plugs` on which
    nights the cable goes in ("every", "pays", "must"), `school` which of equal hours it is charged in ("late", "early", "cool").
    `before` is how it was until it was changed: the moment (ISO), `warm_up`, `cabin_c`, `people`, the earliest first.
    """

    __tablename__ = "habit"
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), primary_key=True)
    outlet_id: Mapped[int | None] = mapped_column(ForeignKey("outlet.id"))
    tariff_id: Mapped[int | None] = mapped_column(ForeignKey("tariff.id"))
    before: Mapped[list[list[Any]]] = mapped_column(JSON, default=list, server_default="[]")
    outlet: Mapped[OutletRow | None] = relationship(lazy="joined")
    tariff: Mapped[TariffRow | None] = relationship(lazy="joined")

    @property
    def km(self) -> float:
        """Kilometres of the usual day."""
        return float(self.town_km + self.country_km + self.motorway_km)


class LearntRow(Base):
    """What a car's own log taught: its factors, their doubt, and the error on held-back days before and after; that of pack heating on
    the way is from so many trips with their kWh.
    """

    __tablename__ = "learnt"
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), primary_key=True)
    base: Mapped[float]
    heat: Mapped[float]
    cold: Mapped[float]
    base_sigma: Mapped[float | None]
    heat_sigma: Mapped[float | None]
    cold_sigma: Mapped[float | None]
    day_sigma: Mapped[float | None]
    before: Mapped[float]
    after: Mapped[float]
    days: Mapped[int]
    pack_heat: Mapped[float] = mapped_column(default=1.0, server_default="1")
    pack_heat_days: Mapped[int] = mapped_column(default=0, server_default="0")


class BatteryRow(Base, kept(BatteryFacts)):  # type: ignore[misc]
    """A car's first day, and its battery's warranty: the health it promises (0 to 1), for so many years or kilometres; None: not known."""

    __tablename__ = "battery"
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), primary_key=True)


class SmallBatteryRow(Base, kept(TwelveVoltFacts)):  # type: ignore[misc]
    """A car's 12 V battery: when it was fitted (None: not known), its kind, whether the pack tops it up while the car sleeps, whether
    the boot opens without it ("yes", "no", "unknown"); and the size of its washer tank (L).
    """

    __tablename__ = "small_battery"
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), primary_key=True)


class DayRow(Base):
    """A day kept to start from: its kilometres, traffic, climb and what is on the car."""

    __tablename__ = "usual_day"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    levers: Mapped[dict[str, object]] = mapped_column(JSON)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class WayRow(Base):
    """A long way with its posts: km, how many of them are country road, what its motorways allow (None: as usual), and posts by km
    mark, kW, price, name and minutes of standing.
    """

    __tablename__ = "way"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    km: Mapped[float]
    country_km: Mapped[float]
    limit_kmh: Mapped[float | None]
    posts: Mapped[list[list[float | str]]] = mapped_column(JSON, default=list)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class DepartureRow(Base):
    """When a car leaves: weekly on `days` (digits, 0 = Monday), or once `on_date`; not on holidays of a `region`, if any.

    `warm_up` is "advised" or a choice; `since` is the day it was first entered, `entered_at` when it was entered or changed last, `uid` its
    name in calendars. `day_id` is the kept day that it is driven as, in place of `km` out and home; for so many `nights`
    the car stays away, at a place (None: one without an outlet).
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
    entered_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    day_id: Mapped[int | None] = mapped_column(ForeignKey("usual_day.id"), default=None)
    nights: Mapped[int] = mapped_column(default=0, server_default="0")
    place_id: Mapped[int | None] = mapped_column(ForeignKey("place.id"), default=None)
    withdrawn: Mapped[bool] = mapped_column(default=False)
