"""The tables of who may come in. Secrets are stored as their hash alone."""

import os
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import DateTime, Dialect, Engine, ForeignKey, String, TypeDecorator, create_engine, event
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

VERSION = 1


class AccessRefused(RuntimeError):
    """The file of who may come in cannot be used, with a sentence for a person."""


class Moment(TypeDecorator[datetime]):
    """A moment in UTC; SQLite keeps no zone."""

    impl, cache_ok = DateTime, True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """To UTC, without its zone."""
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """With its zone again."""
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """These tables and no others."""


class PersonRow(Base):
    """Somebody who may sign in; `key` is the name as it is compared."""

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    key: Mapped[str] = mapped_column(String(120), unique=True)
    phrase_hash: Mapped[str]
    right: Mapped[str]


class DeviceRow(Base):
    """A browser that somebody signed in on."""

    __tablename__ = "device"
    id: Mapped[int] = mapped_column(primary_key=True)
    secret_hash: Mapped[str] = mapped_column(unique=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(80))
    address: Mapped[str] = mapped_column(String(60))
    made_at: Mapped[datetime] = mapped_column(Moment)
    seen_at: Mapped[datetime] = mapped_column(Moment)


class TokenRow(Base):
    """What lets in without a person, for one purpose."""

    __tablename__ = "token"
    id: Mapped[int] = mapped_column(primary_key=True)
    secret_hash: Mapped[str] = mapped_column(unique=True)
    purpose: Mapped[str]
    name: Mapped[str] = mapped_column(String(60))
    made_at: Mapped[datetime] = mapped_column(Moment)
    seen_at: Mapped[datetime | None] = mapped_column(Moment)


def open_tables(path: Path) -> Engine:
    """The file, made for its owner's eyes alone when it is not there. Raises: AccessRefused for one of a newer version."""
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    path.touch(0o600)
    os.chmod(path, 0o600)
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 5.0})
    event.listen(engine, "connect", lambda connection, _: connection.execute("PRAGMA foreign_keys = ON"))
    with engine.begin() as connection:
        version = connection.exec_driver_sql("PRAGMA user_version").scalar() or 0
        if version > VERSION:
            raise AccessRefused(f"{path} was written by a newer Frost Tally. Update this one, or move that file away.")
        Base.metadata.create_all(connection)
        connection.exec_driver_sql(f"PRAGMA user_version = {VERSION}")
    return engine
