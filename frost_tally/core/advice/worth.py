"""What a warm-up is worth: comfort, level, wear and energy in money, and a choice weighed with them. Why: docs/decisions/0016."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..charge.night import NightPlan
from ..drive.day import Start
from ..heat.warm import WarmUpChoice
from ..units import Array
from ..why import Why

COMFORT_C = figure(
    "comfort.in_a_coat", 15.0, "°C", Basis.PUBLISHED, "ISO 7730: neutral in a winter coat (2 clo) while driving (1.2 met)"
)
SEATS_K = figure(
    "comfort.warm_seat",
    6.0,
    "K",
    Basis.COMMON_PRACTICE,
    "a warm seat and wheel in air temperature; ISO 7730 with half of it at the body",
)
COMFORT_KWH = figure(
    "comfort.worth",
    0.015,
    "kWh/(K·min)",
    Basis.COMMON_PRACTICE,
    "our judgement: twice the 1 kWh that nearly all spend on ten minutes {13 K} too cold",
)
SCREENS_MIN = figure(
    "comfort.scraping", 4.0, "min", Basis.COMMON_PRACTICE, "our judgement: clearing iced screens by hand, in the frost"
)
BEARABLE_KMIN = figure(
    "comfort.bearable",
    150.0,
    "K·min",
    Basis.COMMON_PRACTICE,
    "our judgement: ten minutes at {15 K} too cold; people come before range",
)
COAT_MIN = figure(
    "comfort.coat_on", 30.0, "min", Basis.COMMON_PRACTICE, "our judgement: nobody drives longer in a coat in a cold car"
)
ON_THE_WAY = figure(
    "warm_up.charged_on_the_way", 2.5, "", Basis.COMMON_PRACTICE, "price of a fast charge against the dearest hour"
)
DAY_DOUBT = figure(
    "warm_up.day_doubt",
    0.08,
    "",
    Basis.COMMON_PRACTICE,
    "one standard deviation of what a day takes; the floor is kept on the cautious side",
)
CAUTIOUS = 1.2816


@dataclass(frozen=True)
class Worth:
    """What things are worth, in the tariff's money: a kWh in the pack, on the way, a K·min of comfort, a mild kWh's wear.

    Differences up to `no_matter` do not count.
    """

    in_pack: float
    on_the_way: float
    comfort: float
    wear: float
    no_matter: float


@dataclass(frozen=True, kw_only=True)
class Option:
    """One choice over the whole day. Levels 0 to 1, energies in kWh, temperatures °C, money in the tariff's currency.

    `parts` are what it costs more (or, negative, saves) than doing nothing: `night` at the wall, `level` kept for
    tomorrow, `scarce` level that would have to be charged on the way, `wear` and `comfort`. `cold_min` are the driving
    minutes colder than a coat makes up for, `cold_kmin` by how much; `reason` says why a choice cannot be had.
    """

    choice: WarmUpChoice
    plan: NightPlan
    start: Start
    arrival_soc: float
    gained_km: float
    cold_min: float
    cold_kmin: float
    driven_min: float
    regen: float
    worn_kwh: float
    parts: Mapping[str, float]
    reason: Why

    @property
    def total(self) -> float:
        """All parts, against doing nothing."""
        return sum(self.parts.values())

    @property
    def money(self) -> float:
        """What it costs in money more than doing nothing: the night's bill less the energy that is left in the evening."""
        return self.parts["night"] + self.parts["level"]


@dataclass(frozen=True, kw_only=True)
class Taken:
    """What days take with each choice, arrays of shape (days, choices): level (0 to 1), energy to put back with the heat that the
    next charge needs (kWh), wear (kWh moved), minutes and kelvin-minutes of cold, minutes driven.
    """

    soc: Array
    back_kwh: Array
    worn_kwh: Array
    cold_min: Array
    cold_kmin: Array
    driven_min: Array

    def rows(self, some: slice) -> "Taken":
        """Some of the days."""
        return Taken(**{name: column[some] for name, column in vars(self).items()})

    def between(self, km: Array, wanted_km: Array) -> "Taken":
        """The same for other distances, linear between those that were driven."""
        columns = {name: column.T for name, column in vars(self).items()}
        return Taken(**{name: np.stack([np.interp(wanted_km, km, each) for each in c], axis=1) for name, c in columns.items()})
