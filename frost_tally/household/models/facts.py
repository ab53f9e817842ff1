"""What happened: drives, charges, readings, events, leavings, and what the house's meter counted.

`source` says who measured ("owner", "gauge", "car", "meter", "file", "script", "assumed"), `noted_by` who wrote the row down ("": at this
computer), `assumed` which of a row's values nobody measured, `sure` which doubts the owner has called right.
"""

from datetime import datetime

from sqlalchemy import JSON, ForeignKey, Index, false
from sqlalchemy.orm import Mapped, mapped_column, relationship

from .base import Base, Moment, by_whom
from .plans import PlanRow


class DriveRow(Base):
    """A day's driving from leaving home to coming back. Levels 0 to 1; `start_…` are pack and cabin when it left (°C).

    `typed_…` is what the owner typed of the air and when, where no weather is known. `plan_id` is the plan it was driven on.
    """

    __tablename__ = "drive"
    __table_args__ = (Index("ix_drive_car_left", "car_id", "left_at"), Index("ix_drive_left", "left_at"))
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("night_plan.id"), index=True, default=None)
    left_at: Mapped[datetime] = mapped_column(Moment)
    home_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    noted_at: Mapped[datetime] = mapped_column(Moment)
    km: Mapped[float]
    soc_start: Mapped[float]
    soc_end: Mapped[float]
    start_pack_c: Mapped[float | None] = mapped_column(default=None)
    start_cabin_c: Mapped[float | None] = mapped_column(default=None)
    typed_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    typed_now_c: Mapped[float | None] = mapped_column(default=None)
    typed_low_c: Mapped[float | None] = mapped_column(default=None)
    kwh: Mapped[float | None] = mapped_column(default=None)
    out_c: Mapped[float | None] = mapped_column(default=None)
    mean_kmh: Mapped[float | None] = mapped_column(default=None)
    load_kg: Mapped[float | None] = mapped_column(default=None)
    preheated: Mapped[str] = mapped_column(default="", server_default="")
    note: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(default="owner")
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")
    assumed: Mapped[list[str]] = mapped_column(JSON, default=list)
    sure: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    plan: Mapped[PlanRow | None] = relationship()


class ChargeRow(Base):
    """A charge, at home, elsewhere or fast (`site`); energy at the wall and into the pack (kWh), `cost` in the contracts' money,
    `post_kw` the power of a post on the way.
    """

    __tablename__ = "charge"
    __table_args__ = (Index("ix_charge_car_begun", "car_id", "begun_at"), Index("ix_charge_begun", "begun_at"))
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("night_plan.id"), index=True, default=None)
    outlet_id: Mapped[int | None] = mapped_column(ForeignKey("outlet.id"), default=None)
    site: Mapped[str] = mapped_column(default="home", server_default="home")
    place: Mapped[str] = mapped_column(default="")
    begun_at: Mapped[datetime] = mapped_column(Moment)
    ended_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    soc_start: Mapped[float | None] = mapped_column(default=None)
    soc_end: Mapped[float | None] = mapped_column(default=None)
    wall_kwh: Mapped[float | None] = mapped_column(default=None)
    pack_kwh: Mapped[float | None] = mapped_column(default=None)
    cost: Mapped[float | None] = mapped_column(default=None)
    post_kw: Mapped[float | None] = mapped_column(default=None)
    out_c: Mapped[float | None] = mapped_column(default=None)
    note: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(default="owner")
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")
    assumed: Mapped[list[str]] = mapped_column(JSON, default=list)
    sure: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")


class ReadingRow(Base):
    """One value read off a car: `kind` is "level", "odometer", "tyre" (`part` is the wheel, "" for all four), "twelve_volt" …

    `temp_c` is the temperature it was read at, `warm` a tyre straight after a drive; readings of one look share `read_at`.
    """

    __tablename__ = "reading"
    __table_args__ = (
        Index("ix_reading_car_kind_at", "car_id", "kind", "read_at"),
        Index("ix_reading_kind_at", "kind", "read_at"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    read_at: Mapped[datetime] = mapped_column(Moment)
    kind: Mapped[str]
    part: Mapped[str] = mapped_column(default="")
    value: Mapped[float]
    unit: Mapped[str]
    temp_c: Mapped[float | None] = mapped_column(default=None)
    warm: Mapped[bool] = mapped_column(default=False)
    source: Mapped[str] = mapped_column(default="owner")
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")
    assumed: Mapped[list[str]] = mapped_column(JSON, default=list)
    sure: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")


class EventRow(Base):
    """Something done to a car or by its software: a tyre swap, a repair, an update, a season's item (`item` is its key on the list)."""

    __tablename__ = "event"
    __table_args__ = (Index("ix_event_car_at", "car_id", "at"), Index("ix_event_at", "at"))
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(Moment)
    kind: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    who: Mapped[str] = mapped_column(default="", server_default="")
    item: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(default="owner")
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")
    assumed: Mapped[list[str]] = mapped_column(JSON, default=list)


class CapacityRow(Base):
    """A capacity test: energy (kWh) between two levels, discharged or charged; `pack_c` is the pack's temperature.

    `how` "wall" counts at the wall, "car" is the car's own figure as energy between full and empty; `stopped`: the car ended it early.
    """

    __tablename__ = "capacity_test"
    __table_args__ = (Index("ix_capacity_car_at", "car_id", "at"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(Moment)
    how: Mapped[str]
    soc_from: Mapped[float]
    soc_to: Mapped[float]
    kwh: Mapped[float]
    pack_c: Mapped[float | None] = mapped_column(default=None)
    stopped: Mapped[bool] = mapped_column(default=False, server_default=false())
    note: Mapped[str] = mapped_column(default="", server_default="")
    source: Mapped[str] = mapped_column(default="owner")
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")
    assumed: Mapped[list[str]] = mapped_column(JSON, default=list)


class GuideRow(Base):
    """A guide under way, or ended: its kind, the step it is at, and what was said at each (values in SI by name)."""

    __tablename__ = "guide"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    begun_at: Mapped[datetime] = mapped_column(Moment)
    ended_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    step: Mapped[int] = mapped_column(default=0)
    said: Mapped[dict[str, object]] = mapped_column(JSON, default=dict)


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
    noted_by: Mapped[str] = mapped_column(default=by_whom, server_default="")


class MeterRow(Base):
    """What the house's meter counted in an interval; `start_s` in seconds since 1970, UTC."""

    __tablename__ = "meter"
    start_s: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    minutes: Mapped[int]
    kwh: Mapped[float]


class WeatherRow(Base):
    """The air's temperature (°C) in an interval, from a file; `start_s` in seconds since 1970, UTC. A typical year is kept in 1971."""

    __tablename__ = "weather"
    start_s: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    minutes: Mapped[int]
    temp_c: Mapped[float]
