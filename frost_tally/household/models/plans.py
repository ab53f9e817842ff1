"""What was planned: a night's plan with its blocks and limits, so that it can be carried out and compared."""

from datetime import datetime

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from .base import Base, Moment


class PlanRow(Base):
    """A plan that was kept for a night. Levels 0 to 1, energy in kWh, `cost` in the contracts' money.

    `levers` are all of them as they were, `pulled` the names of those that were not as usual; `start_…` are pack and cabin at
    departure (°C).
    """

    __tablename__ = "night_plan"
    __table_args__ = (Index("ix_plan_car_departure", "car_id", "departure"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    kept_at: Mapped[datetime] = mapped_column(Moment)
    plug_in: Mapped[datetime | None] = mapped_column(Moment, default=None)
    departure: Mapped[datetime] = mapped_column(Moment)
    km: Mapped[float]
    limit: Mapped[float]
    soc_start: Mapped[float]
    soc_departure: Mapped[float]
    arrival_low: Mapped[float]
    arrival_likely: Mapped[float]
    arrival_high: Mapped[float]
    wall_kwh: Mapped[float]
    cost: Mapped[float]
    levers: Mapped[dict[str, object]] = mapped_column(JSON, default=dict)
    pulled: Mapped[list[str]] = mapped_column(JSON, default=list)
    start_pack_c: Mapped[float | None] = mapped_column(default=None)
    start_cabin_c: Mapped[float | None] = mapped_column(default=None)
    withdrawn: Mapped[bool] = mapped_column(default=False)
    blocks: Mapped[list["BlockRow"]] = relationship(cascade="all, delete-orphan", order_by="BlockRow.begin", lazy="select")


class StartCheckRow(Base):
    """What was seen when a car's cable went in: codes of troubles, and the amperes that the car showed."""

    __tablename__ = "start_check"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(Moment)
    amps: Mapped[float | None] = mapped_column(default=None)
    troubles: Mapped[list[str]] = mapped_column(JSON, default=list)


class ReminderRow(Base):
    """What somebody was reminded of: once for a car, a kind and a departure; `problem` is why no letter went out ("": it did)."""

    __tablename__ = "reminder"
    __table_args__ = (UniqueConstraint("car_id", "kind", "departure"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    kind: Mapped[str]
    departure: Mapped[datetime] = mapped_column(Moment)
    told_at: Mapped[datetime] = mapped_column(Moment)
    problem: Mapped[str] = mapped_column(default="", server_default="")


class NightCheckRow(Base):
    """Whether a night that ended at a time charged: by the level that was read after it, or as the owner `told`; `kept`: by a kept plan."""

    __tablename__ = "night_check"
    id: Mapped[int] = mapped_column(primary_key=True)
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), index=True)
    ended_at: Mapped[datetime] = mapped_column(Moment)
    noted_at: Mapped[datetime] = mapped_column(Moment)
    kept: Mapped[bool]
    charged: Mapped[bool]
    told: Mapped[bool]


class BlockRow(Base):
    """A stretch of drawing in a plan: `kind` is "charge" or "warm_up", power at the wall (kW), its mean price per kWh."""

    __tablename__ = "plan_block"
    id: Mapped[int] = mapped_column(primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("night_plan.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    begin: Mapped[datetime] = mapped_column(Moment)
    end: Mapped[datetime] = mapped_column(Moment)
    kw: Mapped[float]
    price_per_kwh: Mapped[float]
