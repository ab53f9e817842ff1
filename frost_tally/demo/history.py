"""The made-up household's log beside its drives: charges, looks at the clock, tests, 12 V readings, and what was done to the cars."""

from collections.abc import Iterator, Sequence
from datetime import date, datetime, time, timedelta

import numpy as np

from ..core.battery.cold import Chemistry, usable_fraction
from ..core.charge.tariff import Tariff
from ..core.home import OwnedCar
from ..core.log.bill import Cells, priced
from ..household.models import Base, CapacityRow, ChargeRow, DriveRow, EventRow, ReadingRow
from ..standins.weather import SeededYear

EFFICIENCY, LOST_PER_K, MILD_C, METER_SIGMA = 0.89, 0.002, 10.0, 0.008
"""What the simulated meter and car really do: the share of the wall's energy that arrives, and what the cold takes of it."""
CLOCK_KM = {"Marten": 12_400.0, "Dray": 8_900.0}
NEW_ON = {"Marten": date(2024, 2, 19), "Dray": date(2024, 6, 3)}
CHEAP_FROM = {"Marten": time(23, 0), "Dray": time(22, 30)}
TESTS = {
    (4, 11): ("discharge", 0.12, 0.90),
    (10, 11): ("discharge", 0.10, 1.00),
    (7, 18): ("wall", 0.14, 0.80),
    (1, 9): ("car", 0.0, 1.0),
}
FADES, LOG_DAYS = 0.65, 731
TEST_C = 18.0
OUTING_DAYS, OUTING_KM = 45, 96.0
SEASON = {
    "twelve_volt": "12 V battery looked at", "washer": "washer mix for the winter", "wiper_blades": "wiper blades looked at",
    "flap_seal": "charge flap cleaned, dried and treated", "door_seals": "door seals greased", "sensors": "mirrors and sensors cleaned",
    "kit": "brush, scraper, blanket and gloves in the car", "load_out": "needless load out", "carrier_off": "roof carrier off",
    "tyres": "winter tyres on", "pressures": "tyre pressures set cold", "departures": "winter departure times set",
}  # fmt: skip
IDLE_PER_DAY, IDLE_COLD_PER_K = 0.008, 0.0003
"""What the simulated cars really lose standing."""


def new_on(name: str, first: datetime, evening: datetime) -> date:
    """A car's first day: as long before the log as in the demo, however long that is."""
    usual = evening - timedelta(days=LOG_DAYS)
    return NEW_ON[name] - max(timedelta(0), usual - first)


class History:
    """One car's log around its drives, from a seed."""

    def __init__(
        self,
        car: OwnedCar,
        drives: Sequence[DriveRow],
        tariff: Tariff,
        *,
        seed: int,
        evening: datetime,
        wall_kw: float,
        soc_now: float,
    ) -> None:
        self.car, self.drives, self.evening, self.wall_kw, self.soc_now = car, list(drives), evening, wall_kw, soc_now
        self.lost = 0.0
        self.new_on = new_on(car.name, self.drives[0].left_at, evening)
        self.draw, self.weather = np.random.default_rng(seed), SeededYear()
        self.capacity = car.car.pack.usable_kwh
        first = self.drives[0].left_at - timedelta(days=60)
        self.cells: Cells = priced(tariff.cells(first, evening + timedelta(days=2)))

    def rows(self) -> Iterator[Base]:
        """Everything but the drives themselves, which are given the time when they came home; outings bring drives of their own."""
        outings = list(self._outings()) if self.car.name == "Marten" else []
        yield from outings
        self.drives = sorted(
            [*self.drives, *(each for each in outings if isinstance(each, DriveRow))], key=lambda each: each.left_at
        )
        for i, drive in enumerate(self.drives):
            drive.home_at = drive.home_at or drive.left_at + timedelta(hours=self.car.habit.parked_h + drive.km / 55)
            following = self.drives[i + 1] if i + 1 < len(self.drives) else None
            if following is not None and drive.soc_end < following.soc_start - 0.005:
                yield self._charge(drive, following)
        yield from self._topped_up()
        yield from self._clock()
        yield from self._now_and_then()

    def _stood(self, soc: float, home: datetime, until: datetime) -> float:
        """The level after standing, in whole per cents: what does not show yet shows another time."""
        air = min(0.0, self.weather.temperature_c(home + (until - home) / 2))
        self.lost += (IDLE_PER_DAY - IDLE_COLD_PER_K * air) * max(0.0, (until - home) / timedelta(days=1))
        shown = int(100 * self.lost + 1e-9) / 100
        self.lost -= shown
        return round(max(0.02, soc - shown), 2)

    def _charge(self, drive: DriveRow, following: DriveRow) -> ChargeRow:
        """Home again, and full by the morning after: in the cheap hours of its first night, or sooner where that is too short."""
        home = drive.home_at or drive.left_at
        if (following.left_at - home) < timedelta(hours=3):
            return self._fast(home, following, drive.soc_end)
        out_c = self.weather.temperature_c(home + timedelta(hours=8))
        cheap = home.replace(hour=CHEAP_FROM[self.car.name].hour, minute=CHEAP_FROM[self.car.name].minute)
        low = self._stood(drive.soc_end, home, max(cheap, home))
        high = min(1.0, round(2 * following.soc_start - self._stood(following.soc_start, cheap, following.left_at), 2))
        pack = (high - low) * self.capacity
        share = EFFICIENCY - LOST_PER_K * max(0.0, MILD_C - out_c)
        wall = pack / share * float(self.draw.normal(1, METER_SIGMA))
        hours = timedelta(hours=wall / self.wall_kw)
        begun = max(min(cheap, following.left_at - timedelta(minutes=20) - hours), home + timedelta(minutes=5))
        ended = min(begun + hours, following.left_at - timedelta(minutes=1))
        return self._row(begun, ended, (low, high), wall, site="home", outlet_id=self.car.at.id)

    def _topped_up(self) -> Iterator[ChargeRow]:
        """This evening: a few minutes on the wall unit before the other car's turn."""
        home, soc = self.drives[-1].home_at or self.evening, self.drives[-1].soc_end
        if self.soc_now > soc:
            wall = (self.soc_now - soc) * self.capacity / EFFICIENCY
            begun = home + timedelta(minutes=9)
            ended = begun + timedelta(hours=wall / self.wall_kw)
            yield self._row(begun, ended, (soc, self.soc_now), wall, site="home", outlet_id=self.car.at.id)

    def _row(self, begun: datetime, ended: datetime, soc: tuple[float, float], wall: float, **more: object) -> ChargeRow:
        cost = wall * float(self.cells.prices(begun.timestamp(), ended.timestamp()))
        values = {"wall_kwh": round(wall, 2), "cost": round(cost, 2), "source": "meter"} | more
        return ChargeRow(car_id=self.car.id, begun_at=begun, ended_at=ended, soc_start=soc[0], soc_end=soc[1], **values)

    def _fast(self, home: datetime, following: DriveRow, soc: float) -> ChargeRow:
        """On an outing, at the market square's post."""
        wall = (following.soc_start - soc) * self.capacity / 0.93
        more = {"site": "fast", "place": "Post at the ferry", "cost": round(0.59 * wall, 2), "source": "owner"}
        return self._row(
            home + timedelta(minutes=4), following.left_at - timedelta(minutes=3), (soc, following.soc_start), wall, **more
        )

    def _outings(self) -> Iterator[DriveRow]:
        """Now and then on a Sunday, to the coast and home again, charged on the way."""
        for drive in self.drives[::OUTING_DAYS]:
            sunday = (drive.left_at + timedelta(days=6 - drive.left_at.weekday())).replace(hour=9, minute=30)
            if sunday > self.evening - timedelta(days=3):
                return
            per_km = (drive.soc_start - drive.soc_end) / drive.km
            used = min(0.55, round(OUTING_KM * per_km * float(self.draw.normal(1.02, 0.03)), 2))
            there, back = sunday + timedelta(hours=1.6), sunday + timedelta(hours=2.4)
            low = round(drive.soc_start - used, 2)
            start = min(0.8, low + 0.45)
            for left, home, high, note in (
                (sunday, there, drive.soc_start, "to the coast"),
                (back, back + timedelta(hours=1.7), start, "home"),
            ):
                yield DriveRow(
                    car_id=self.car.id, left_at=left, home_at=home, noted_at=back + timedelta(hours=2), km=OUTING_KM, soc_start=high,
                    soc_end=round(high - used, 2), note=note,
                )  # fmt: skip

    def _clock(self) -> Iterator[ReadingRow]:
        """The kilometres on the clock, on the first evening of every month."""
        km, month = CLOCK_KM[self.car.name], 0
        for drive in self.drives:
            km += drive.km
            home = drive.home_at or drive.left_at
            if home.month != month:
                month = home.month
                at = home + timedelta(minutes=2)
                yield ReadingRow(car_id=self.car.id, read_at=at, kind="odometer", value=round(km), unit="km")

    def _now_and_then(self) -> Iterator[Base]:
        """What comes with the seasons."""
        day, last = self.drives[0].left_at.date(), self.evening.date()
        total = max(1, (last - day).days)
        while (day := day + timedelta(days=1)) < last:
            age = (last - day).days / total
            if day.day == 5 and day.month in (1, 2, 3, 10, 11, 12):
                volt = 12.75 - 0.25 * (1 - age) - 0.02 * float(self.draw.random())
                yield self._reading("twelve_volt", self._at(day, 7, 0), round(volt, 2), "V")
            if (test := self._test(day)) is not None:
                yield test
            yield from self._done(day)

    def _done(self, day: date) -> Iterator[EventRow]:
        said = {
            (10, 20): ("tyre_swap", "winter tyres on"),
            (4, 12): ("tyre_swap", "summer tyres on"),
            (3, 2): ("update", "car software"),
            (7, 9): ("repair", "stone chip in the windscreen"),
        }.get((day.month, day.day))
        if said:
            yield EventRow(car_id=self.car.id, at=self._at(day, 17, 30), kind=said[0], note=said[1])
        if (day.month, day.day) == (10, 24):
            for i, (key, title) in enumerate(SEASON.items()):
                at = self._at(day, 10, 5 * i)
                yield EventRow(car_id=self.car.id, at=at, kind="season", item=key, note=title)

    def _reading(self, kind: str, at: datetime, value: float, unit: str) -> ReadingRow:
        air = round(self.weather.temperature_c(at), 1)
        return ReadingRow(car_id=self.car.id, read_at=at, kind=kind, value=value, unit=unit, temp_c=air, source="gauge")

    def _test(self, day: date) -> CapacityRow | None:
        """What was tested on a day: driven down in spring and autumn, charged up in July, the car's own figure after Twelfth Night."""
        how, low, high = TESTS.get((day.month, day.day), ("", 0.0, 0.0))
        if not how:
            return None
        whole = (self.evening.date() - self.new_on).days
        age = max(0.0, (day - self.new_on).days / whole)
        health = 1 - (1 - self.car.car.pack.soh) * age**FADES
        kwh = (high - low) * health * self.car.car.pack.usable_kwh_new / (EFFICIENCY if how == "wall" else 1.0)
        first, last = (low, high) if how == "wall" else (high, low)
        pack_c = None if how == "car" else TEST_C
        if pack_c is not None:
            kwh *= float(self.draw.normal(1, 0.009)) * float(usable_fraction(pack_c, Chemistry(self.car.car.pack.chemistry)))
        return CapacityRow(
            car_id=self.car.id, at=self._at(day, 18, 0), how=how, soc_from=first, soc_to=last, kwh=round(kwh, 1), pack_c=pack_c
        )

    def _at(self, day: date, hour: int, minute: int) -> datetime:
        return self.evening.replace(year=day.year, month=day.month, day=day.day, hour=hour, minute=minute)
