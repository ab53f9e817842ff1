"""The month and the year: what they add up to by car, what that would have cost otherwise, the best and the worst day and why."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache, reduce
from operator import add
from zoneinfo import ZoneInfo

import numpy as np

from ...core.battery.limit_policies import WAY_PRICE
from ...core.charge.supply import charge_rate
from ...core.charge.tariff import Tariff
from ...core.errors import OutOfRange
from ...core.home import OwnedCar
from ...core.log.bill import Cells, priced
from ...core.log.sums import Charges, Drives, Sums, filled, plugged_since, share_within, summed
from ...core.units import Array
from ...household.log_facts import Charged, Driven, charges, drives
from ...household.prices import with_prices
from ...household.snapshot import Snapshot
from ..shared.derived import derived
from ..shared.measured import charging_car, measured
from .notable import NotableDay, best_and_worst

AROUND = timedelta(days=3)
AMPLE_KW = 7.0
READS = ("drive", "charge", "price", "weather")


@dataclass(frozen=True, kw_only=True)
class CarMonth:
    """One car's sums; `guessed` is how many charges had no energy read, `mean_price` the mean of its tariff over all hours."""

    name: str
    sums: Sums
    guessed: int
    mean_price: float | None


@dataclass(frozen=True, kw_only=True)
class Month:
    """A month of the household, by car and in all, with its best and worst day (None without any to compare).

    `days` are kWh from the wall by day: at home in cheap and in dear hours, and elsewhere.
    """

    first: date
    cars: tuple[CarMonth, ...]
    best: NotableDay | None
    worst: NotableDay | None
    currency: str
    zone: ZoneInfo
    over: bool
    days: Mapping[int, tuple[float, float, float]]

    @property
    def length(self) -> int:
        """Days of the month."""
        return (month_after(self.first) - self.first).days

    @property
    def sums(self) -> Sums:
        """All cars together."""
        return reduce(add, (each.sums for each in self.cars), Sums())


def month_after(first: date, months: int = 1) -> date:
    """The first day of another month."""
    at = first.year * 12 + first.month - 1 + months
    return date(at // 12, at % 12 + 1, 1)


def month(snapshot: Snapshot, first: date, car_id: int | None = None) -> Month:
    """A month, of one car or of all."""
    over = _start(month_after(first), snapshot.home.place.clock) <= snapshot.now

    def work() -> Month:
        home, zone = snapshot.home, snapshot.home.place.clock
        edges = [_start(first, zone), _start(month_after(first), zone)]
        spans = [_Span(snapshot, each, edges) for each in home.cars if car_id in (None, each.id)]
        best, worst = best_and_worst(snapshot, [(each.owned, each.driven) for each in spans], *edges)
        return Month(
            first=first,
            cars=tuple(each.month() for each in spans),
            best=best,
            worst=worst,
            currency=home.currency,
            zone=zone,
            over=over,
            days=_by_day(spans, zone),
        )

    return derived(snapshot, ("month", snapshot.home, first, car_id, over), work, (*READS, "reading"))


def _by_day(spans: list["_Span"], zone: ZoneInfo) -> dict[int, tuple[float, float, float]]:
    """Energy of the days on which a charge began: cheap and dear at home, elsewhere."""
    found: dict[int, tuple[float, float, float]] = {}
    for span in spans:
        columns = span.columns
        dear = span.cells.dear_shares(columns.begun_s, columns.ended_s)
        low, high = (each.timestamp() for each in (span.edges[0], span.edges[-1]))
        parts = (columns.wall_kwh * share_within(columns, low, high)).tolist()
        for each, kwh, home, share in zip(span.charged, parts, columns.at_home.tolist(), dear.tolist(), strict=True):
            was = found.get(day := datetime.fromtimestamp(max(each.begun_s, low), zone).day, (0.0, 0.0, 0.0))
            more = (kwh * (1 - share), kwh * share, 0.0) if home else (0.0, 0.0, kwh)
            found[day] = (was[0] + more[0], was[1] + more[1], was[2] + more[2])
    return found


def _start(first: date, zone: ZoneInfo) -> datetime:
    return datetime(first.year, first.month, 1, tzinfo=zone)


@dataclass(frozen=True, kw_only=True)
class Year:
    """Twelve months of sums, and those of the year before; by month."""

    year: int
    months: tuple[Sums, ...]
    before: tuple[Sums, ...]
    currency: str


def year(snapshot: Snapshot, number: int, car_id: int | None = None) -> Year:
    """A year beside the year before, of one car or of all."""

    def work() -> Year:
        zone = snapshot.home.place.clock
        edges = [_start(month_after(date(number - 1, 1, 1), i), zone) for i in range(25)]
        by_car = [_Span(snapshot, each, edges).sums for each in snapshot.home.cars if car_id in (None, each.id)]
        sums = tuple(reduce(add, each, Sums()) for each in zip(*by_car, strict=True)) if by_car else (Sums(),) * 24
        return Year(year=number, months=sums[12:], before=sums[:12], currency=snapshot.home.currency)

    return derived(snapshot, ("year", snapshot.home, number, car_id), work, READS)


class _Span:
    """A car's charges and drives from the first to the last of some edges, and what they add up to between them."""

    def __init__(self, snapshot: Snapshot, owned: OwnedCar, edges: list[datetime]) -> None:
        self.owned, self.edges = owned, edges
        first_s = edges[0].timestamp()
        begun = charges(snapshot.log, owned.id, edges[0] - AROUND, edges[-1])
        self.charged = [each for each in begun if each.begun_s >= first_s or (each.ended_s or each.begun_s) > first_s]
        self.driven = drives(snapshot.log, owned.id, edges[0] - AROUND, edges[-1])
        self.cells = _cells(snapshot, owned, edges[0], edges[-1])
        self.columns = _columns(snapshot, owned, self.charged, self.driven)
        usable_kwh = charging_car(snapshot, owned).pack.usable_kwh
        driven = Drives(
            left_s=np.array([each.left_s for each in self.driven]),
            km=np.array([each.km for each in self.driven]),
            kwh=np.array([(each.soc_start - each.soc_end) * usable_kwh for each in self.driven]),
        )
        self.sums = summed(
            self.columns,
            driven,
            self.cells,
            wall_kw=_wall_kw(snapshot, owned),
            edges_s=[each.timestamp() for each in edges],
            public_price=WAY_PRICE * snapshot.home.per_euro,
        )

    def month(self) -> CarMonth:
        """The sums of a single span."""
        low, high = (each.timestamp() for each in self.edges)
        mean = float(self.cells.prices(low, high)) if self.owned.contract is not None else None
        guessed = sum(each.wall_kwh is None and each.begun_s >= low for each in self.charged)
        return CarMonth(name=self.owned.name, sums=self.sums[0], guessed=guessed, mean_price=mean)


def _cells(snapshot: Snapshot, owned: OwnedCar, since: datetime, until: datetime) -> Cells:
    """The prices of a car's tariff over a span and some days around it; without one nothing costs anything."""
    if owned.contract is None:
        return Cells(since.timestamp(), np.zeros(1), np.zeros(1))
    span = since - AROUND, until + AROUND
    tariff = with_prices(snapshot.log, owned.contract, span)
    if tariff.series is None and (tariff.following is None or tariff.following.series is None):
        return _by_contract(tariff, *span)
    return priced(tariff.cells(*span))


@lru_cache(maxsize=16)
def _by_contract(tariff: Tariff, since: datetime, until: datetime) -> Cells:
    """Kept, for what a contract without dated prices says of a span does not change."""
    return priced(tariff.cells(since, until))


def _wall_kw(snapshot: Snapshot, owned: OwnedCar) -> float:
    """What the car draws at home, kW."""
    if owned.outlet is None:
        return AMPLE_KW
    try:
        return charge_rate(owned.outlet.supply, charging_car(snapshot, owned)).wall_kw
    except OutOfRange:
        return AMPLE_KW


def _columns(snapshot: Snapshot, owned: OwnedCar, charged: list[Charged], driven: list[Driven]) -> Charges:
    """Charges as columns; energy that nobody read follows from the levels and the efficiency of the outlet."""
    car, own = owned.car, measured(snapshot, owned)
    shares = {outlet: each.value for outlet, each in own.items() if each.enough}
    begun = np.array([each.begun_s for each in charged])
    open_s = [each.begun_s if each.ended_s is None else each.ended_s for each in charged]

    def column(values: Iterable[float | None]) -> Array:
        return np.array([np.nan if each is None else each for each in values], dtype=float)

    added = column(each.soc_end for each in charged) - column(each.soc_start for each in charged)
    share = np.array([shares.get(each.outlet_id, car.charger.efficiency) for each in charged])
    read = column(each.wall_kwh for each in charged), column(each.pack_kwh for each in charged)
    wall_kwh, pack_kwh = filled(*read, added, share, car.pack.usable_kwh)
    return Charges(
        begun_s=begun,
        ended_s=np.array(open_s),
        wall_kwh=wall_kwh,
        pack_kwh=pack_kwh,
        cost=column(each.cost for each in charged),
        at_home=np.array([each.site == "home" for each in charged], dtype=bool),
        plugged_s=plugged_since(begun, np.array([each.home_s for each in driven]), AROUND.total_seconds()),
    )
