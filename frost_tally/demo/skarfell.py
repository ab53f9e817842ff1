"""What the made-up household has: its two cars and their days, its contracts, a long way and when the cars leave."""

from dataclasses import replace
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..core.car import preset
from ..core.charge.prices import Series
from ..core.charge.tariff import ALL_ROWS, HOLIDAY, WEEKDAYS, WEEKEND, Band, Season
from ..household.contracts import season_rows
from ..household.models import CarRow, DayRow, DepartureRow, HabitRow, TariffRow, WayRow
from ..household.parts import band_rows
from ..services.setup import car_fields
from ..services.tariffs import FEED
from ..standins.price_feed import SeededFeed

ZONE = ZoneInfo("Europe/Oslo")
EVENING = datetime(2027, 1, 14, 18, 12, 37, 418_529, tzinfo=ZONE)
"""With odd seconds, as a real clock has them."""
SETTLED_DAYS = 10


def coast() -> WayRow:
    """The way to the coast, with the posts that stand beside it."""
    posts = (
        (62.0, 50.0, 0.52, "Alder bridge", 0.0), (118.0, 150.0, 0.62, "Pass top", 0.0), (171.0, 11.0, 0.30, "Mill inn", 0.0),
        (203.0, 150.0, 0.64, "Two rivers", 0.0), (262.0, 100.0, 0.58, "Quarry", 0.0, 50.0), (318.0, 200.0, 0.69, "Long sound", 0.0),
        (371.0, 50.0, 0.49, "Old ferry", 0.0),
    )  # fmt: skip
    return WayRow(name="To the coast", km=420.0, country_km=60.0, posts=[list(each) for each in posts])


def days_of_the_van(dray: CarRow) -> dict[str, DayRow]:
    """The van's three days: both markets with their cheeses, and the round of the neighbours."""

    def day(name: str, town: float, country: float, parked: float, luggage: float) -> DayRow:
        trips = {"town_1": town, "country_1": country, "parked_1": parked, "town_2": town, "country_2": country}
        return DayRow(car_id=dray.id, name=name, levers={**trips, "luggage_kg": luggage, "people": 2})

    return {
        "market": day("Market", 6.0, 29.0, 6.0, 320.0),
        "far": day("Far market", 8.0, 61.0, 7.0, 320.0),
        "near": day("Near round", 3.0, 9.0, 0.5, 60.0),
    }


def departures(marten: CarRow, dray: CarRow, kept: dict[str, DayRow]) -> list[DepartureRow]:
    """Work on weekdays, an errand on Saturdays; two markets a week, the far one on Saturdays."""
    since = (EVENING - timedelta(days=SETTLED_DAYS)).date()
    rows = (
        (marten, "work", "Work", marten.habit.depart, "01234", "NO", 56.0),
        (marten, "errand", "Errand", time(10, 0), "5", "", 4.0),
        (dray, "market", "Market", dray.habit.depart, "2", "", 35.0),
        (dray, "far", "Far market", dray.habit.depart, "5", "", 69.0),
    )
    return [
        DepartureRow(
            car_id=car.id,
            uid=f"skarfell-{uid}",
            name=name,
            at=at,
            days=days,
            region=region,
            km=km,
            since=since,
            day_id=kept[uid].id if uid in kept else None,
        )
        for car, uid, name, at, days, region, km in rows
    ]


def feed_year(years: float) -> Series:
    """The half-hourly prices of the past year, and what is known on the evening; the last weeks for a short log."""
    feed = SeededFeed()
    midnight = EVENING.replace(hour=0, minute=0)
    return feed.prices(midnight - timedelta(days=min(368, int(370 * years) + 2)), feed.known_until(EVENING))


def tariffs() -> tuple[TariffRow, TariffRow, TariffRow]:
    two = (Band("night", 0.12, time(22, 30), time(6), ALL_ROWS), Band("day", 0.30, time(6), time(22, 30), ALL_ROWS))
    winter = Season(
        "Winter",
        (11, 1),
        (3, 31),
        (
            Band("night", 0.11, time(23), time(6), ALL_ROWS),
            Band("winter morning", 0.39, time(6), time(9), WEEKDAYS),
            Band("day", 0.24, time(6), time(9), WEEKEND | {HOLIDAY}),
            Band("day", 0.24, time(9), time(16), ALL_ROWS),
            Band("winter evening", 0.45, time(16), time(20), ALL_ROWS),
            Band("day", 0.24, time(20), time(23), ALL_ROWS),
        ),
    )
    three = (
        Band("night", 0.11, time(23), time(6), ALL_ROWS),
        Band("morning", 0.29, time(6), time(9), WEEKDAYS),
        Band("day", 0.24, time(6), time(9), WEEKEND | {HOLIDAY}),
        Band("day", 0.24, time(9), time(16), ALL_ROWS),
        Band("evening", 0.31, time(16), time(20), ALL_ROWS),
        Band("day", 0.24, time(20), time(23), ALL_ROWS),
    )
    return (
        TariffRow(name="Hollow Tarn Two-Step", standing_per_day=0.28, bands=band_rows(two)),
        TariffRow(
            name="Hollow Tarn Three-Step",
            standing_per_day=0.28,
            holiday_region="NO",
            bands=band_rows(three),
            seasons=season_rows([winter]),
        ),
        TariffRow(
            name="Hollow Tarn Half-Hourly",
            standing_per_day=0.34,
            feed=FEED,
            bands=band_rows((Band("fallback", 0.22, time(0), time(0), ALL_ROWS),)),
        ),
    )


def hatch() -> CarRow:
    car = preset("compact_hatch", "Marten")
    car = replace(car, pack=replace(car.pack, soh=0.95), tyres=replace(car.tyres, winter=True))
    habit = HabitRow(
        limit=0.8,
        warm_up="cabin_and_pack",
        depart=time(7, 10),
        plug_in=time(18, 30),
        town_km=8.0,
        country_km=44.0,
        motorway_km=60.0,
        motorway_kmh=110.0,
        parked_h=8.0,
        people=2,
        cabin_c=20.0,
    )
    return CarRow(**car_fields(car, "compact_hatch"), habit=habit)


def van() -> CarRow:
    car = preset("small_van", "Dray")
    car = replace(car, pack=replace(car.pack, soh=0.98))
    habit = HabitRow(
        limit=0.9,
        warm_up="cabin_and_pack",
        depart=time(5, 40),
        plug_in=time(17, 0),
        town_km=12.0,
        country_km=58.0,
        motorway_km=0.0,
        motorway_kmh=90.0,
        parked_h=6.0,
        people=4,
        cabin_c=18.0,
    )
    return CarRow(**car_fields(car, "small_van"), habit=habit)
