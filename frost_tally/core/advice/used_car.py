"""A stranger's car before it is bought: what is left of its pack by its age and kilometres, by its own figure, and by one drive.

Nothing of it is kept. What is usual is the ageing model's, with its doubt, for a life of so many years and kilometres; a figure and a
drive are tests like any other (`battery.capacity`), and the same fit weighs them against it.
"""

from dataclasses import dataclass
from enum import StrEnum

from ..basis import Basis, figure
from ..battery.ageing import WORN_AT
from ..battery.capacity import Capacity, foresee, from_car, from_discharge
from ..battery.cold import usable_fraction
from ..battery.own_tests import FIGURE, SHARED, tested
from ..battery.trend import DAYS_PER_YEAR, Trend, fit, usual_course
from ..car import Car
from ..drive.road import Conditions, consumption_wh_per_km
from ..errors import OutOfRange, require
from ..probability import normal_below

KNOWN_SIGMA = figure(
    "used.known",
    0.02,
    "",
    Basis.COMMON_PRACTICE,
    "our judgement: from this error down a health is known well enough to say “as usual”",
)
FEW = figure("used.few", 0.2, "", Basis.COMMON_PRACTICE, "our judgement: among so few of such cars a health is out of the usual")
USUAL_KMH, USUAL_C, USUAL_CLIMATE_KW = 80.0, 5.0, 1.0
WINTER_KMH, WINTER_C, WINTER_CLIMATE_KW = 110.0, -10.0, 2.5
"""The winter drive that a health is translated into."""
DRIVE = "drive"
DRIVES = ((0.9, 0.7), (0.9, 0.5), (0.9, 0.2))
"""Test drives to choose from, from level to level."""


class Found(StrEnum):
    """How a car stands beside those of its age and kilometres."""

    BETTER = "better"
    USUAL = "usual"
    WORSE = "worse"
    UNTOLD = "untold"
    UNTESTED = "untested"


@dataclass(frozen=True, kw_only=True)
class Drive:
    """A test drive: levels (0 to 1), the trip meter's kWh, the pack's °C (None: not read), that of the air."""

    soc_from: float
    soc_to: float
    kwh: float
    pack_c: float | None
    air_c: float


@dataclass(frozen=True, kw_only=True)
class UsedCar:
    """What can be read: its class as sold (`car`), age (days), km, its own figure or a paper's (0.4 to 1.05; None: none), one drive."""

    car: Car
    age_days: float
    km: float
    figure: float | None = None
    drive: Drive | None = None


@dataclass(frozen=True, eq=False, kw_only=True)
class Judged:
    """What is usual for such a car, what this one's tests say, and how it stands; `rank` the share of
    such cars that have less; `tests` what each of them says alone (which, share of new, its sigma), `warranty_chance`
    that it is under the promised health when that ends (age in days), `short_money` what it has lost beyond the usual (in the money of
    the pack's price), `foreseen` what each of `DRIVES` would tell, with its km.
    """

    usual: Trend
    trend: Trend
    found: Found
    rank: float
    tests: tuple[tuple[str, float, float], ...]
    warranty_days: float
    warranty_chance: float
    short_money: float
    winter_km: tuple[float, float, float]
    foreseen: tuple[tuple[float, float, Capacity, float], ...]


def judge(used: UsedCar, *, warranty: tuple[float, float, float], pack_per_kwh: float, air_c: float) -> Judged:
    """Judge a car by all that is known of it; `warranty` is a health (0 to 1), years and km; `air_c` that of the drive to come (°C).

    Raises: OutOfRange for an age outside 30 days to 25 years, km outside 0 to 600 000, and what a test refuses.
    """
    require(used.age_days / DAYS_PER_YEAR, 0.08, 25, "Its age", "years", "new_on")
    require(used.km, 0, 600_000, "Its kilometres", "km", "km")
    pack, years = used.car.pack, used.age_days / DAYS_PER_YEAR
    course = usual_course(pack.chemistry, cycles_a_year=used.km / years * _kwh_per_km(used.car) / pack.usable_kwh_new)
    said = _said(used)
    taken = [tested(used.age_days, each, FIGURE if name == FIGURE else "", pack.usable_kwh_new) for name, each in said.items()]
    tests = [each for each in taken if each is not None]
    if len(tests) < len(taken):
        raise OutOfRange("That would be a health that no pack has: check the levels, the kWh and the kWh when new.", "kwh")
    usual, trend = (fit(these, course=course, now_days=used.age_days, shared=SHARED) for these in ((), tests))
    ends = max(used.age_days, min(warranty[1], warranty[2] / max(used.km / years, 1.0)) * DAYS_PER_YEAR)
    return Judged(
        usual=usual,
        trend=trend,
        found=_found(usual, trend, bool(tests)),
        rank=_rank(usual, trend),
        tests=tuple((name, each.kwh / pack.usable_kwh_new, each.sigma_kwh / pack.usable_kwh_new) for name, each in said.items()),
        warranty_days=ends,
        warranty_chance=trend.chance_below(warranty[0], ends),
        short_money=(usual.health - trend.health) * pack.usable_kwh_new * pack_per_kwh / WORN_AT,
        winter_km=_winter_km(used.car, trend),
        foreseen=tuple(_foreseen(used.car, trend, each, air_c) for each in DRIVES),
    )


def _said(used: UsedCar) -> dict[str, Capacity]:
    """What the car's own figure and the drive measure, by which it is."""
    pack, found = used.car.pack, dict[str, Capacity]()
    if used.figure is not None:
        found[FIGURE] = from_car(used.figure, pack.usable_kwh_new)
    if (it := used.drive) is not None:
        found[DRIVE] = from_discharge(it.kwh, it.soc_from, it.soc_to, chemistry=pack.chemistry, pack_c=it.pack_c, air_c=it.air_c)
    return found


def _found(usual: Trend, trend: Trend, any_test: bool) -> Found:
    """Beside the usual: among the lowest or highest of such cars beyond doubt, known to be none of these, or neither."""
    if not any_test:
        return Found.UNTESTED
    low, high = trend.band
    if high < usual.health and _rank(usual, trend) < FEW:
        return Found.WORSE
    if low > usual.health and _rank(usual, trend) > 1 - FEW:
        return Found.BETTER
    return Found.USUAL if trend.sigma <= KNOWN_SIGMA else Found.UNTOLD


def _rank(usual: Trend, trend: Trend) -> float:
    """The share of such cars that have less (0 to 1)."""
    return float(normal_below((trend.health - usual.health) / usual.sigma))


def _kwh_per_km(car: Car) -> float:
    return consumption_wh_per_km(car, USUAL_KMH, Conditions(ambient_c=USUAL_C), climate_kw=USUAL_CLIMATE_KW) / 1000.0


def _winter_km(car: Car, trend: Trend) -> tuple[float, float, float]:
    """How far nine tenths of the pack reach on the motorway in frost: likely, and at both ends of the health's band, km."""
    cold = Conditions(ambient_c=WINTER_C)
    kwh = 0.9 * car.pack.usable_kwh_new * float(usable_fraction(WINTER_C, car.pack.chemistry))
    per_km = consumption_wh_per_km(car, WINTER_KMH, cold, climate_kw=WINTER_CLIMATE_KW) / 1000.0
    likely, low, high = (health * kwh / per_km for health in (trend.health, *trend.band))
    return likely, low, high


def _foreseen(car: Car, trend: Trend, levels: tuple[float, float], air_c: float) -> tuple[float, float, Capacity, float]:
    """A drive between two levels, what it would tell of this pack, and about how many km it takes in some air."""
    usable = trend.health * car.pack.usable_kwh_new
    per_km = consumption_wh_per_km(car, USUAL_KMH, Conditions(ambient_c=air_c), climate_kw=USUAL_CLIMATE_KW) / 1000.0
    return *levels, foresee(usable, *levels, pack_c=None, air_c=air_c), usable * (levels[0] - levels[1]) / per_km
