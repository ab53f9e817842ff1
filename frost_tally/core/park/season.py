"""What to do before the winter and on the evenings before frost: dated by the climate of the place."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Flags, Ints

FROST_C = figure("season.frost", 0.0, "°C", Basis.COMMON_PRACTICE, "a night as cold as this is a frost")
TYRES_C = figure("season.winter_tyres", 7.0, "°C", Basis.COMMON_PRACTICE, "daily mean from which on winter tyres are worth it")
EARLY = figure("season.early", 0.25, "", Basis.COMMON_PRACTICE, "of years have their first frost sooner than the day that counts")
REFILLS = figure("season.refills", 3.0, "", Basis.COMMON_PRACTICE, "tanks of washer fluid in a winter")
MEAN_DAYS, SETTLED_DAYS, SETTLED_FROSTS = 7, 14, 3


SUMMER = {"north": (7, 15), "south": (1, 15)}
"""The middle of summer, month and day, by half of the earth."""


@dataclass(frozen=True, kw_only=True)
class Item:
    """Something to do: its key, minutes, and how many days before the first frost (None: on the evening before any); `by_tyres` counts from
    the day that is cold enough for winter tyres instead.
    """

    key: str
    minutes: int
    lead_days: int | None = None
    by_tyres: bool = False


ITEMS: Mapping[str, Item] = {
    each.key: each
    for each in (
        Item(key="twelve_volt", minutes=15, lead_days=28),
        Item(key="washer", minutes=10, lead_days=21),
        Item(key="wiper_blades", minutes=10, lead_days=21),
        Item(key="emergency", minutes=10, lead_days=21),
        Item(key="flap_seal", minutes=10, lead_days=14),
        Item(key="door_seals", minutes=15, lead_days=14),
        Item(key="sensors", minutes=5, lead_days=14),
        Item(key="kit", minutes=10, lead_days=14),
        Item(key="load_out", minutes=10, lead_days=14),
        Item(key="carrier_off", minutes=20, lead_days=14),
        Item(key="wheel_covers", minutes=5, lead_days=14),
        Item(key="tyres", minutes=60, lead_days=7, by_tyres=True),
        Item(key="pressures", minutes=10, lead_days=0, by_tyres=True),
        Item(key="departures", minutes=5, lead_days=7),
        Item(key="limit", minutes=5, lead_days=7),
        Item(key="wipers_up", minutes=1),
        Item(key="mirrors_out", minutes=1),
        Item(key="screen_cover", minutes=2),
        Item(key="cable_in", minutes=2),
    )
}


@dataclass(frozen=True, kw_only=True)
class Dates:
    """When a winter begins: its first frost likely (None: none comes), when winter tyres are worth it; `summer` is where the year turns."""

    summer: date
    frost: date | None
    tyres: date | None


def summer_before(today: date, means_c: Array) -> date:
    """The middle of the last summer, from which a winter is counted: of the half of the earth that a year's daily means (°C, from the
    first of January on) belong to.
    """
    half = SUMMER["north"] if means_c[180:210].mean() >= means_c[:30].mean() else SUMMER["south"]
    summer = date(today.year, *half)
    return summer if summer <= today else summer.replace(year=today.year - 1)


def season_of(summer: date, lows_c: Sequence[Array], means_c: Sequence[Array]) -> Dates:
    """The dates of the winter after a summer's day from years of daily lows and means (°C), each from that day of the year on.

    The first frost is one that two more follow within a fortnight, and that of an early year: a quarter of them have it sooner.
    """
    frosts = [int(found[0]) for low in lows_c if len(found := _settled(low <= FROST_C))]
    smoothed = [np.convolve(mean, np.ones(MEAN_DAYS) / MEAN_DAYS, "valid") for mean in means_c]
    tyres = [int(found[0]) for mean in smoothed if len(found := np.flatnonzero(mean <= TYRES_C))]

    def day(firsts: list[int], years: int) -> date | None:
        if not firsts or len(firsts) < years / 4:
            return None
        return summer + timedelta(days=int(np.floor(np.quantile(firsts, EARLY))))

    return Dates(summer=summer, frost=day(frosts, len(lows_c)), tyres=day(tyres, len(means_c)))


def _settled(frosty: Flags) -> Ints:
    """Days of frost that others follow within a fortnight: a single night in summer is no winter."""
    days = np.flatnonzero(frosty)
    ahead = np.searchsorted(days, days + SETTLED_DAYS) - np.arange(len(days))
    return days[ahead >= SETTLED_FROSTS]


def due(item: Item, dates: Dates) -> date | None:
    """When something is due; None for what belongs to evenings, and where no frost comes."""
    start = dates.tyres if item.by_tyres else dates.frost
    if item.lead_days is None or start is None:
        return None
    return start - timedelta(days=item.lead_days)
