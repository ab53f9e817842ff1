"""The household's tariffs written, put away, and followed by others from a day on."""

from collections.abc import Iterable
from datetime import date, timedelta

from sqlalchemy.orm import Session

from ..core.charge.tariff import Season, Tariff
from ..core.errors import Refusal
from .models import CarRow, SeasonRow, TariffRow
from .parts import band_rows, digits, in_order


def _row(session: Session, number: int) -> TariffRow:
    found = session.get(TariffRow, number)
    if found is None or found.withdrawn:
        raise Refusal("There is no such tariff.")
    return found


def has_contract(session: Session, number: int) -> bool:
    """Whether there is such a tariff, put away or not."""
    return session.get(TariffRow, number) is not None


def write_contract(session: Session, number: int | None, tariff: Tariff, region: str, feed: str) -> int:
    """Write a tariff, a new one (None) or over what it was; returns its number. Raises: Refusal for a name that another has."""
    if any(each.name == tariff.name and each.id != number for each in in_order(session, TariffRow)):
        raise Refusal("Another tariff has this name already.", "name")
    return _write(session, TariffRow() if number is None else _row(session, number), tariff, region, feed)


def follow_contract(session: Session, number: int, tariff: Tariff, *, begins: date, region: str, feed: str) -> int:
    """Let a tariff follow another from a day on, so that what was paid stays as it was; returns its number. Raises: Refusal."""
    old, row = _row(session, number), TariffRow()
    if old.valid_from is not None and begins <= old.valid_from:
        raise Refusal("New prices must begin after the first day of the old ones.", "replaces_from")
    made = _write(session, row, tariff, region, feed)
    old.valid_to, old.following_id = begins - timedelta(days=1), made
    row.valid_from, row.valid_to = begins, None
    return made


def _write(session: Session, row: TariffRow, tariff: Tariff, region: str, feed: str) -> int:
    row.name, row.standing_per_day, row.holiday_region = tariff.name, tariff.standing_per_day, region
    row.valid_from, row.valid_to, row.feed, row.typical = tariff.valid_from, tariff.valid_to, feed, False
    row.bands, row.seasons = band_rows(tariff.bands), season_rows(tariff.seasons)
    session.add(row)
    session.flush()
    return row.id


def season_rows(seasons: Iterable[Season]) -> list[SeasonRow]:
    """The rows of a tariff's seasons."""
    return [
        SeasonRow(
            name=season.name,
            first=list(season.first),
            last=list(season.last),
            bands=[
                [each.name, each.price_per_kwh, each.start.isoformat(), each.end.isoformat(), digits(each.days)]
                for each in season.bands
            ],
        )
        for season in seasons
    ]


def put_contract_away(session: Session, number: int) -> str:
    """Put a tariff away; returns its name. Raises: Refusal when a car is still on it, or it follows another."""
    row = _row(session, number)
    users = [car.name for car in in_order(session, CarRow) if car.habit.tariff_id == number]
    before = [each for each in in_order(session, TariffRow) if each.following_id == number]
    if users:
        raise Refusal(f"{' and '.join(users)} still charge on “{row.name}”: choose another tariff for them first.")
    if before:
        raise Refusal(f"“{row.name}” follows “{before[0].name}”: undo that first, or put the older one away.")
    row.withdrawn = True
    return row.name
