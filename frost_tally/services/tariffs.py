"""Tariffs: drafts that are painted, kept whole or not at all, new prices from a day on, dated prices fetched."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from ..core.charge.prices import Series
from ..core.charge.tariff import MonthDay, Season, Tariff
from ..core.charge.week import SHAPES, Colour, Week, painting_of, palette_of
from ..core.errors import Refusal
from ..formats.tariff_json import TariffFile
from ..household.calendar import holidays_of
from ..household.home import Home
from ..household.models import PriceRow, SeasonRow, TariffRow
from ..household.parts import cars, dated_prices, home_place, household, tariff_of, tariffs
from .imports import take_into
from .setup import band_rows

FEED = "stand-in"
CHUNK = 5000


@dataclass(frozen=True)
class DraftSeason:
    """A painted week of a draft; the usual one has no days of the year."""

    name: str
    first: MonthDay | None
    last: MonthDay | None
    week: Week


@dataclass(frozen=True, kw_only=True)
class Draft:
    """A tariff while it is painted: the palette is shared by all its weeks, the first of which is the usual one."""

    name: str
    palette: tuple[Colour, ...]
    seasons: tuple[DraftSeason, ...]
    standing_per_day: float = 0.0
    region: str = ""
    valid_from: date | None = None
    valid_to: date | None = None
    feed: str = ""
    number: int | None = None
    series: Series | None = None
    notes: tuple[str, ...] = ()

    def tariff(self, zone: str, currency: str) -> Tariff:
        """The core's tariff, perhaps with faults. Raises: Refusal for an unknown region."""
        return Tariff(
            name=self.name,
            zone=zone,
            bands=self.seasons[0].week.bands(self.palette),
            currency=currency,
            standing_per_day=self.standing_per_day,
            seasons=tuple(
                Season(each.name, each.first, each.last, each.week.bands(self.palette))
                for each in self.seasons[1:]
                if each.first is not None and each.last is not None
            ),
            holidays=holidays_of(self.region) if self.region else None,
            series=self.series,
            valid_from=self.valid_from,
            valid_to=self.valid_to,
        )


@dataclass(frozen=True, kw_only=True)
class ListedTariff:
    """A tariff in the list: its row, the core's tariff, who uses it, what dated prices it has (count, first, last), and whether somebody
    publishes them to this home.
    """

    row: TariffRow
    tariff: Tariff
    users: tuple[str, ...]
    dated: int
    dated_from: datetime | None
    dated_to: datetime | None
    fetched: bool


def listed(home: Home, now: datetime) -> tuple[ListedTariff, ...]:
    """All tariffs with who uses them."""
    with home.reading() as session:
        house, place, everybody = household(session), home_place(session), cars(session)
        found = []
        for row in tariffs(session):
            count, first, last = session.execute(
                select(func.count(), func.min(PriceRow.start_s), func.max(PriceRow.start_s + 60 * PriceRow.minutes)).where(
                    PriceRow.tariff_id == row.id
                )
            ).one()
            tariff = tariff_of(session, row, house.currency, place.zone, (now, now + timedelta(days=2)))
            users = tuple(car.name for car in everybody if car.habit.tariff_id == row.id)
            begin, end = (datetime.fromtimestamp(each, ZoneInfo(place.zone)) if each else None for each in (first, last))
            found.append(
                ListedTariff(
                    row=row,
                    tariff=tariff,
                    users=users,
                    dated=count,
                    dated_from=begin,
                    dated_to=end,
                    fetched=bool(row.feed) and home.world.prices is not None,
                )
            )
        return tuple(found)


def draft_of(file: TariffFile, number: int | None = None, feed: str = "") -> Draft:
    """A draft to paint on, from a tariff and its holiday region."""
    tariff = file.tariff
    palette = palette_of([*tariff.bands, *(band for season in tariff.seasons for band in season.bands)])
    weeks = [DraftSeason("All year", None, None, painting_of(tariff.bands, palette))]
    weeks += [DraftSeason(s.name, s.first, s.last, painting_of(s.bands, palette)) for s in tariff.seasons]
    return Draft(
        name=tariff.name,
        palette=palette,
        seasons=tuple(weeks),
        standing_per_day=tariff.standing_per_day,
        region=file.region,
        valid_from=tariff.valid_from,
        valid_to=tariff.valid_to,
        feed=feed,
        number=number,
        series=tariff.series,
        notes=file.notes,
    )


def started(shape: str) -> Draft:
    """A draft from one of the typical shapes. Raises: Refusal for an unknown one."""
    if shape not in SHAPES:
        raise Refusal("There is no such shape to start from.", "shape")
    chosen = SHAPES[shape]
    made = draft_of(TariffFile(Tariff(name="My tariff", zone="UTC", bands=chosen.bands, seasons=chosen.seasons)))
    return replace(made, feed=FEED if chosen.dated else "")


def stored(home: Home, number: int) -> Draft:
    """The draft of a tariff that is kept. Raises: Refusal when there is none."""
    return draft_of(file_of(home, number, dated=False), number, _row_feed(home, number))


def file_of(home: Home, number: int, dated: bool = True) -> TariffFile:
    """A kept tariff as its formats want it, with all its dated prices when asked. Raises: Refusal when there is none."""
    with home.reading() as session:
        row = _row(session, number)
        tariff = tariff_of(session, row, household(session).currency, home_place(session).zone)
        zone = ZoneInfo(tariff.zone)
        span = (datetime(1970, 1, 2, tzinfo=zone), datetime(2100, 1, 1, tzinfo=zone))
        series = dated_prices(session, number, *span) if dated else None
        return TariffFile(replace(tariff, series=series, following=None), row.holiday_region, number=number)


def _row(session: Session, number: int) -> TariffRow:
    found = session.get(TariffRow, number)
    if found is None or found.withdrawn:
        raise Refusal("There is no such tariff.")
    return found


def _row_feed(home: Home, number: int) -> str:
    with home.reading() as session:
        return _row(session, number).feed


def keep(home: Home, draft: Draft, seen_revision: int, replaces_from: date | None = None, pending: str = "") -> int:
    """Keep a draft, new or in place of what it was, with the dated prices of a `pending` file; returns the undo number.

    With `replaces_from` the kept tariff ends on the day before, and the draft follows it: what was paid stays as it was.
    Raises: Refusal naming gaps, overlaps and wrong dates with their field; Stale.
    """
    words = f"“{draft.name}” kept" if replaces_from is None else f"“{draft.name}”: new prices from {replaces_from}"
    with home.deciding(words, seen_revision) as session:
        zone, currency = home_place(session).zone, household(session).currency
        checked_name(draft.name)
        draft.tariff(zone, currency).checked()
        taken = next((r for r in tariffs(session) if r.name == draft.name and r.id != draft.number), None)
        if taken is not None and replaces_from is None:
            raise Refusal("Another tariff has this name already.", "name")
        new = draft.number is None or replaces_from is not None
        row = TariffRow(name=draft.name) if new else _row(session, draft.number or 0)
        if new:
            session.add(row)
            session.flush()
        old = _row(session, draft.number) if replaces_from is not None and draft.number is not None else None
        if old is not None and replaces_from is not None:
            if old.valid_from is not None and replaces_from <= old.valid_from:
                raise Refusal("New prices must begin after the first day of the old ones.", "replaces_from")
            old.valid_to, old.following_id = replaces_from - timedelta(days=1), row.id
            draft = replace(draft, valid_from=replaces_from, valid_to=None)
        _fill(row, draft)
        if draft.series is not None:
            put_prices(session, row.id, draft.series)
        if pending:
            take_into(session, pending, row.id)
    return session.number


def checked_name(name: str) -> None:
    """Raises: Refusal for an empty or overlong name."""
    if not 1 <= len(name.strip()) <= 40:
        raise Refusal("A tariff needs a name of up to 40 letters.", "name")


def _fill(row: TariffRow, draft: Draft) -> None:
    row.name, row.standing_per_day, row.holiday_region = draft.name.strip(), draft.standing_per_day, draft.region
    row.valid_from, row.valid_to, row.feed = draft.valid_from, draft.valid_to, draft.feed
    row.bands = band_rows(draft.seasons[0].week.bands(draft.palette))
    row.seasons = season_rows(draft.tariff("UTC", "EUR").seasons)


def season_rows(seasons: Iterable[Season]) -> list[SeasonRow]:
    """The rows of a tariff's seasons."""
    return [
        SeasonRow(
            name=season.name,
            first=list(season.first),
            last=list(season.last),
            bands=[
                [b.name, b.price_per_kwh, b.start.isoformat(), b.end.isoformat(), "".join(str(d) for d in sorted(b.days))]
                for b in season.bands
            ],
        )
        for season in seasons
    ]


def put_prices(session: Session, number: int, series: Series) -> int:
    """Write dated prices, the new over the old; returns how many."""
    rows = [
        {"tariff_id": number, "start_s": a, "minutes": (b - a) // 60, "price_per_kwh": price}
        for a, b, price in zip(series.start_s.tolist(), series.end_s.tolist(), series.price_per_kwh.tolist(), strict=True)
    ]
    for i in range(0, len(rows), CHUNK):
        statement = insert(PriceRow)
        over = {"minutes": statement.excluded.minutes, "price_per_kwh": statement.excluded.price_per_kwh}
        session.execute(statement.on_conflict_do_update(index_elements=["tariff_id", "start_s"], set_=over), rows[i : i + CHUNK])
    return len(rows)


def remove(home: Home, number: int, seen_revision: int) -> int:
    """Put a tariff away; returns the number to undo it by. Raises: Refusal when a car is still on it; Stale."""
    with home.deciding("", seen_revision) as session:
        row = _row(session, number)
        users = [car.name for car in cars(session) if car.habit.tariff_id == number]
        before = [each for each in tariffs(session) if each.following_id == number]
        if users:
            raise Refusal(f"{' and '.join(users)} still charge on “{row.name}”: choose another tariff for them first.")
        if before:
            raise Refusal(f"“{row.name}” follows “{before[0].name}”: undo that first, or put the older one away.")
        session.words = f"“{row.name}” put away"
        row.withdrawn = True
    return session.number


def fetch(home: Home, now: datetime, number: int, days_back: int = 0) -> tuple[int, datetime]:
    """Fetch the dated prices known now from the feed; returns how many and until when.

    Raises: Refusal for a tariff without feed.
    """
    with home.recording() as session:
        row, zone = _row(session, number), home_place(session).zone
        if row.feed != FEED:
            raise Refusal("This tariff has no feed of dated prices.")
        feed = home.world.prices
        if feed is None:
            raise Refusal("Nobody publishes prices to this home: enter them, or take a file.")
        here = now.astimezone(ZoneInfo(zone))
        start = (here - timedelta(days=days_back)).replace(hour=0, minute=0, second=0, microsecond=0)
        until = feed.known_until(here)
        return put_prices(session, number, feed.prices(start, until)), until


def fetch_all(home: Home, now: datetime) -> None:
    """Fetch what is known now for every tariff that has a feed."""
    with home.reading() as session:
        numbers = [row.id for row in tariffs(session) if row.feed == FEED]
    for number in numbers:
        fetch(home, now, number)
