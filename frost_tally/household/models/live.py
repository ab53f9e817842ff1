"""The nights as they happened at a charge point: what it reported, and what the runner decided."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from .base import Base, Moment


class PointReportRow(Base):
    """What an outlet's point told at a time: of which car on its cable (None: of none), whether it is heard, power (kW), and the level
    where the car tells it (0 to 1). `added` is what this car got of it since it is known, in shares of its pack; `level` is what the
    runner reckons with; `told` is all that was told, so that a server that starts anew goes on from there.
    """

    __tablename__ = "point_report"
    __table_args__ = (Index("ix_point_report_car", "car_id", "at"), Index("ix_point_report_outlet", "outlet_id", "at"))
    id: Mapped[int] = mapped_column(primary_key=True)
    outlet_id: Mapped[int] = mapped_column(ForeignKey("outlet.id", ondelete="CASCADE"))
    car_id: Mapped[int | None] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"), default=None)
    at: Mapped[datetime] = mapped_column(Moment)
    online: Mapped[bool]
    kw: Mapped[float] = mapped_column(default=0.0)
    soc: Mapped[float | None] = mapped_column(default=None)
    added: Mapped[float] = mapped_column(default=0.0)
    level: Mapped[float | None] = mapped_column(default=None)
    told: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)


class NightLineRow(Base):
    """A line of the runner in a car's night before a departure: the state it went to, why, and its numbers."""

    __tablename__ = "night_line"
    __table_args__ = (Index("ix_night_line_car", "car_id", "departure"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    outlet_id: Mapped[int] = mapped_column(ForeignKey("outlet.id", ondelete="CASCADE"))
    car_id: Mapped[int] = mapped_column(ForeignKey("car.id", ondelete="CASCADE"))
    departure: Mapped[datetime] = mapped_column(Moment)
    at: Mapped[datetime] = mapped_column(Moment)
    state: Mapped[str]
    code: Mapped[str]
    values: Mapped[dict[str, float]] = mapped_column(JSON, default=dict)
