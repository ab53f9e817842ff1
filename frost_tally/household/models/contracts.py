"""The home: household, places, people, outlets, tariffs; and what undo and imports keep."""

from datetime import date, datetime, time

from sqlalchemy import JSON, CheckConstraint, ForeignKey, false
from sqlalchemy.orm import Mapped, mapped_column, relationship

from ...core.parts import Outlet, Person, Place
from .base import Base, Moment, kept


class StateRow(Base):
    """How far this store has come: `store` is drawn anew whenever all of its contents are replaced, `revision` grows with every decision
    and never falls. No document has it, for it is not what a household has.
    """

    __tablename__ = "state"
    __table_args__ = (CheckConstraint("id = 1"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    store: Mapped[str]
    revision: Mapped[int] = mapped_column(default=0)


class WrittenRow(Base):
    """How often a table was written: see `household.written`."""

    __tablename__ = "written"
    name: Mapped[str] = mapped_column(primary_key=True)
    times: Mapped[int] = mapped_column(default=0)


class PresentRow(Base):
    """What is so at present, and no part of what the household is: the outside temperatures as typed (of then, and the low of the morning)
    and when (None: never), and the demo's clock.
    """

    __tablename__ = "present"
    __table_args__ = (CheckConstraint("id = 1"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    out_now_c: Mapped[float] = mapped_column(default=0.0)
    out_low_c: Mapped[float] = mapped_column(default=-5.0)
    typed_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    clock: Mapped[datetime | None] = mapped_column(Moment, default=None)


class HouseholdRow(Base):
    """The one household: its contracts' money, and what the house uses (`house_kwh` holds twelve monthly figures or none)."""

    __tablename__ = "household"
    __table_args__ = (CheckConstraint("id = 1"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    currency: Mapped[str] = mapped_column(default="EUR")
    complete: Mapped[bool] = mapped_column(default=False)
    house_kwh: Mapped[list[float]] = mapped_column(JSON, default=list)
    house_shape: Mapped[str] = mapped_column(default="evening")
    shift: Mapped[float] = mapped_column(default=0.0)


class PlaceRow(Base, kept(Place)):  # type: ignore[misc]
    """Where cars stand: clock, altitude, kind of garage, and mean temperatures of January and July, by what `winters` says of them."""

    __tablename__ = "place"
    id: Mapped[int] = mapped_column(primary_key=True)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class PersonRow(Base, kept(Person)):  # type: ignore[misc]
    """Somebody's units and way of writing: `weight_unit` leads heights and areas too, `hours` is "24" or "12", `week_start` "mon" or "sun",
    `decimal_mark` "." or ","; `per_contract` is how much of their money one of the contracts' is worth."""

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    withdrawn: Mapped[bool] = mapped_column(default=False)


class OutletRow(Base, kept(Outlet)):  # type: ignore[misc]
    """A wall unit or socket; `install_cost` is what it would cost to have, 0 when it is there, None when nobody knows.

    From `held_from` until `held_until` (local; the same time twice: never) the house leaves it `held_a` amperes. `lights` is what the owner
    noted of the lights of its cable, `point` the name of its charge point.
    """

    __tablename__ = "outlet"
    id: Mapped[int] = mapped_column(primary_key=True)
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
    typical: Mapped[bool] = mapped_column(default=False)
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


class UndoRow(Base):
    """What some rows were before a change, the revision that it made, `who` made it ("": this computer) and the script's key that it was
    asked by, if any: see `household.undo`.
    """

    __tablename__ = "undo"
    __table_args__ = {"sqlite_autoincrement": True}  # noqa: RUF012 - a number is never used twice
    id: Mapped[int] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(Moment)
    words: Mapped[str]
    takes_back: Mapped[bool] = mapped_column(default=False, server_default=false())
    revision: Mapped[int] = mapped_column(default=0, server_default="0")
    who: Mapped[str] = mapped_column(default="", server_default="")
    request_key: Mapped[str | None] = mapped_column(unique=True)
    request_digest: Mapped[str] = mapped_column(default="", server_default="")
    before: Mapped[list[dict[str, object]]] = mapped_column(JSON)


class AsideRow(Base):
    """A value that could not be, found when the tables were made to hold their sense: its place ("car.soh"), its row as it was, what stands
    there instead (None: nothing), or that its whole row is `gone`.
    """

    __tablename__ = "aside"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(Moment)
    place: Mapped[str]
    row: Mapped[dict[str, object]] = mapped_column(JSON)
    value: Mapped[str]
    became: Mapped[str | None]
    gone: Mapped[bool]


class PendingRow(Base):
    """A file that was shown in a preview and waits to be taken over."""

    __tablename__ = "pending"
    id: Mapped[str] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(Moment)
    kind: Mapped[str]
    about: Mapped[dict[str, object]] = mapped_column(JSON)
    content: Mapped[bytes]


class HeaderRow(Base):
    """How somebody read a foreign file: by its header, which column is what, in which unit, on whose clock."""

    __tablename__ = "known_header"
    header: Mapped[str] = mapped_column(primary_key=True)
    choice: Mapped[dict[str, object]] = mapped_column(JSON)
