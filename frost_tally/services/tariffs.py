"""Tariffs: drafts that are painted, kept whole or not at all, new prices from a day on, dated prices fetched."""

from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from ..core.charge.prices import Series
from ..core.charge.tariff import MonthDay, Season, Tariff
from ..core.charge.week import SHAPES, Colour, Week, painting_of, palette_of
from ..core.errors import Refusal
from ..core.parts import Contract
from ..formats.tariff_json import TariffFile
from ..household import contracts
from ..household.calendar import holidays_of
from ..household.prices import dated_prices, prices_known, put_prices, with_prices
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .log_import.intervals import take_into

FEED = "stand-in"


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
    """A tariff in the list: the contract, its tariff with the prices of two days, who uses it, what dated prices it has (count,
    first, last), and whether somebody publishes them to this home.
    """

    contract: Contract
    tariff: Tariff
    users: tuple[str, ...]
    dated: int
    dated_from: datetime | None
    dated_to: datetime | None
    fetched: bool


def listed(snapshot: Snapshot) -> tuple[ListedTariff, ...]:
    """All tariffs with who uses them."""
    home, now, zone = snapshot.home, snapshot.now, snapshot.home.place.clock
    found = []
    for contract in home.contracts:
        count, first, last = prices_known(snapshot.log, contract.id)
        begin, end = (datetime.fromtimestamp(each, zone) if each is not None else None for each in (first, last))
        users = tuple(each.name for each in home.cars if each.contract is not None and each.contract.id == contract.id)
        found.append(
            ListedTariff(
                contract=contract,
                tariff=with_prices(snapshot.log, contract, (now, now + timedelta(days=2))),
                users=users,
                dated=count,
                dated_from=begin,
                dated_to=end,
                fetched=bool(contract.feed) and snapshot.world.prices is not None,
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


def stored(snapshot: Snapshot, number: int) -> Draft:
    """The draft of a tariff that is kept. Raises: Refusal when there is none."""
    return draft_of(file_of(snapshot, number, dated=False), number, _contract(snapshot, number).feed)


def file_of(snapshot: Snapshot, number: int, dated: bool = True) -> TariffFile:
    """A kept tariff as its formats want it, with all its dated prices when asked. Raises: Refusal when there is none."""
    contract, zone = _contract(snapshot, number), snapshot.home.place.clock
    span = (datetime(1970, 1, 2, tzinfo=zone), datetime(2100, 1, 1, tzinfo=zone))
    series = dated_prices(snapshot.log, number, *span) if dated else None
    return TariffFile(replace(contract.tariff, series=series, following=None), contract.region, number=number)


def _contract(snapshot: Snapshot, number: int) -> Contract:
    found = snapshot.home.contract(number)
    if found is None:
        raise Refusal("There is no such tariff.")
    return found


def keep(household: Household, draft: Draft, seen_revision: int, replaces_from: date | None = None, pending: str = "") -> int:
    """Keep a draft, new or in place of what it was, with the dated prices of a `pending` file; returns the undo number.

    With `replaces_from` the kept tariff ends on the day before, and the draft follows it: what was paid stays as it was.
    Raises: Refusal naming gaps, overlaps and wrong dates with their field; Stale.
    """
    words = f"“{draft.name}” kept" if replaces_from is None else f"“{draft.name}”: new prices from {replaces_from}"
    with household.deciding(words, seen_revision) as session:
        home = household.as_decided(session).home
        checked_name(draft.name)
        tariff = draft.tariff(home.place.zone, home.currency).checked()
        tariff = replace(tariff, name=draft.name.strip())
        if replaces_from is None or draft.number is None:
            number = contracts.write_contract(session, draft.number, tariff, draft.region, draft.feed)
        else:
            number = contracts.follow_contract(
                session, draft.number, tariff, begins=replaces_from, region=draft.region, feed=draft.feed
            )
        if draft.series is not None:
            put_prices(session, number, draft.series)
        if pending:
            take_into(session, pending, number)
    return session.number


def checked_name(name: str) -> None:
    """Raises: Refusal for an empty or overlong name."""
    if not 1 <= len(name.strip()) <= 40:
        raise Refusal("A tariff needs a name of up to 40 letters.", "name")


def remove(household: Household, number: int, seen_revision: int) -> int:
    """Put a tariff away; returns the number to undo it by. Raises: Refusal when a car is still on it; Stale."""
    with household.deciding("", seen_revision) as session:
        session.words = f"“{contracts.put_contract_away(session, number)}” put away"
    return session.number


def fetch(household: Household, snapshot: Snapshot, number: int, days_back: int = 0) -> tuple[int, datetime]:
    """Fetch the dated prices known now from the feed; returns how many and until when.

    Raises: Refusal for a tariff without feed.
    """
    feed, here = household.world.prices, snapshot.now
    if _contract(snapshot, number).feed != FEED:
        raise Refusal("This tariff has no feed of dated prices.")
    if feed is None:
        raise Refusal("Nobody publishes prices to this home: enter them, or take a file.")
    start = (here - timedelta(days=days_back)).replace(hour=0, minute=0, second=0, microsecond=0)
    until = feed.known_until(here)
    with household.recording() as session:
        return put_prices(session, number, feed.prices(start, until)), until


def fetch_all(household: Household, now: datetime) -> None:
    """Fetch what is known at a time for every tariff that has a feed."""
    with household.reading(now) as snapshot:
        for contract in snapshot.home.contracts:
            if contract.feed == FEED:
                fetch(household, snapshot, contract.id)
