"""Usable capacity measured: from a discharge, a charge, or the car's own figure; with what each is worth, before and after.

A level is shown in whole per cents, so each reading is off by up to half a step, evenly; how well the display is calibrated shows in
the difference of two levels far apart; meters and efficiency have errors of their own; and a cold pack gives less.
Source: propagation of independent errors (ISO/IEC Guide 98-3). Why: docs/decisions/0065.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import erf, hypot, sqrt

from ..basis import Basis, figure
from ..errors import OutOfRange, require
from .cold import Chemistry, usable_fraction

RESOLUTION = figure("capacity.resolution", 0.01, "", Basis.COMMON_PRACTICE, "levels are shown in whole per cents")
CALIBRATION = figure(
    "capacity.calibration", 0.01, "", Basis.COMMON_PRACTICE, "one standard deviation of what a display counts wrong"
)
METER = figure("capacity.meter", 0.005, "", Basis.COMMON_PRACTICE, "one standard deviation of the car’s or the wall’s meter")
EFFICIENCY = figure("capacity.efficiency", 0.03, "", Basis.COMMON_PRACTICE, "of charging, one standard deviation unless measured")
OWN_FIGURE = figure("capacity.own_figure", 0.015, "", Basis.FROM_MEMORY, "one standard deviation of a car’s own health test")
TYPED = figure("capacity.typed", 0.03, "", Basis.FROM_MEMORY, "one standard deviation of a health that somebody typed")
COUNTED = figure("capacity.counted", 0.01, "", Basis.FROM_MEMORY, "what all energies that a car counts itself may share of error")
WIDENS_C = figure("capacity.widens_below", 15.0, "°C", Basis.COMMON_PRACTICE, "a colder pack measures its cold as well")
COLD_DOUBT = figure(
    "capacity.cold_doubt", 0.5, "", Basis.FROM_MEMORY, "of what the cold takes below that, one standard deviation"
)
UNKNOWN_PACK = figure("capacity.unknown_pack", 0.003, "", Basis.FROM_MEMORY, "when nobody read the pack’s temperature")
GOOD, FAIR, LITTLE = (
    figure(f"capacity.{name}", value, "", Basis.COMMON_PRACTICE, f"twice the relative error, up to which a test is {name}")
    for name, value in (("good", 0.03), ("fair", 0.055), ("little", 0.08))
)
EARLY_SOC = figure("capacity.stopped_early", 0.03, "", Basis.COMMON_PRACTICE, "a car that stops above this has shown a weak cell")
LOW_SOC = figure("capacity.low_start", 0.20, "", Basis.COMMON_PRACTICE, "a deep test goes under this level, as does a car’s own")
LEAST_DELTA = 0.05
OF_THE_CAR = ("calibration", "efficiency", "own_figure")
"""Errors that are one draw a car: the same at each of its tests."""


class Worth(StrEnum):
    """What a test tells."""

    GOOD = "good"
    FAIR = "fair"
    LITTLE = "little"
    NOTHING = "nothing"


@dataclass(frozen=True, kw_only=True)
class Capacity:
    """A measured usable capacity at 25 °C, its standard deviation (kWh), and the relative ones it is made of, by cause."""

    kwh: float
    sigma_kwh: float
    parts: Mapping[str, float]

    @property
    def worth(self) -> Worth:
        """What it tells, by twice its relative error."""
        twice = 2 * self.sigma_kwh / self.kwh
        return next(
            (worth for worth, most in ((Worth.GOOD, GOOD), (Worth.FAIR, FAIR), (Worth.LITTLE, LITTLE)) if twice <= most),
            Worth.NOTHING,
        )


def from_discharge(
    energy_kwh: float,
    soc_from: float,
    soc_to: float,
    *,
    chemistry: Chemistry = Chemistry.NMC,
    pack_c: float | None = None,
    air_c: float | None = None,
    resolution: float = RESOLUTION,
    meter: float = METER,
) -> Capacity:
    """Capacity from the energy drawn between two levels (0 to 1, at least 5 % apart); `pack_c` is the pack's temperature, `air_c` that of
    the air, which tells how cold a pack may have been that nobody read.

    Raises: OutOfRange for levels outside 0 to 1 or the wrong way round, energy outside 0.5 to 500 kWh.

    >>> found = from_discharge(49.3, 1.0, 0.1, pack_c=25.0)
    >>> round(found.kwh, 1), round(2 * found.sigma_kwh, 1)
    (54.8, 1.4)
    """
    return _measured(energy_kwh, _delta(soc_from, soc_to), cold_share(chemistry, pack_c, air_c), resolution, {"meter": meter})


def from_charge(
    energy_kwh: float,
    soc_from: float,
    soc_to: float,
    *,
    efficiency: float = 1.0,
    efficiency_sigma: float = 0.0,
    chemistry: Chemistry = Chemistry.NMC,
    pack_c: float | None = None,
    air_c: float | None = None,
    resolution: float = RESOLUTION,
    meter: float = METER,
) -> Capacity:
    """Capacity from the energy that went in between two levels: into the pack, or at the wall with the efficiency and its error.

    Raises: OutOfRange as for a discharge, and for an efficiency outside 0.5 to 1.
    """
    require(efficiency, 0.5, 1.0, "Charging efficiency", field="efficiency")
    more = {"meter": meter, "efficiency": efficiency_sigma / efficiency}
    return _measured(energy_kwh * efficiency, _delta(soc_to, soc_from), cold_share(chemistry, pack_c, air_c), resolution, more)


def from_car(soh: float, usable_kwh_new: float) -> Capacity:
    """Capacity by the car's own health figure (0.4 to 1.05). Raises: OutOfRange."""
    require(soh, 0.4, 1.05, "Health", field="soh")
    parts = {"resolution": RESOLUTION / sqrt(12), "own_figure": OWN_FIGURE}
    kwh = soh * usable_kwh_new
    return Capacity(kwh=kwh, sigma_kwh=kwh * hypot(*parts.values()), parts=parts)


def foresee(
    usable_kwh: float,
    soc_from: float,
    soc_to: float,
    *,
    at_wall: bool = False,
    pack_c: float | None = 20.0,
    air_c: float | None = None,
) -> Capacity:
    """What a test between two levels would tell, before anybody drives; either way round. Raises: OutOfRange."""
    high, low = max(soc_from, soc_to), min(soc_from, soc_to)
    energy = usable_kwh * (high - low)
    if at_wall:
        return from_charge(energy, low, high, efficiency_sigma=EFFICIENCY, pack_c=pack_c, air_c=air_c)
    return from_discharge(energy, high, low, pack_c=pack_c, air_c=air_c)


def level_sigma(resolution: float = RESOLUTION) -> float:
    """Standard deviation of the difference of two levels: each off by half a step at most, evenly, and the calibration.

    Source: the deviation of a rectangular distribution, half a step / √3 (JCGM 100:2008, 4.3.7).
    """
    return hypot(resolution / sqrt(6), CALIBRATION)


def cold_share(chemistry: Chemistry, pack_c: float | None, air_c: float | None = None) -> tuple[float, float]:
    """What a pack of a temperature gives of its capacity at 25 °C, and the relative error of that. None: nobody read it; then it was as
    cold as the air at the worst, and gave anything between that and all of it, evenly.
    """
    if pack_c is None:
        least = 1.0 if air_c is None else min(1.0, float(usable_fraction(air_c, chemistry)))
        return (1 + least) / 2, hypot(UNKNOWN_PACK, (1 - least) / sqrt(12) / ((1 + least) / 2))
    share = float(usable_fraction(pack_c, chemistry))
    return share, COLD_DOUBT * max(0.0, float(usable_fraction(WIDENS_C, chemistry)) - share) / share


def _delta(upper: float, lower: float) -> float:
    for value, field in ((upper, "soc_from"), (lower, "soc_to")):
        require(100 * value, 0, 100, "A level", "%", field)
    if upper - lower < LEAST_DELTA - 1e-9:
        raise OutOfRange("The two levels must lie at least 5 % apart, the right way round.", "soc_to")
    return upper - lower


def _measured(
    energy_kwh: float, delta: float, given: tuple[float, float], resolution: float, more: Mapping[str, float]
) -> Capacity:
    require(energy_kwh, 0.25, 500, "The energy of a test", "kWh", "kwh")
    share, cold = given
    parts = {"resolution": resolution / sqrt(6) / delta, "calibration": CALIBRATION / delta, "temperature": cold, **more}
    kwh = energy_kwh / delta / share
    return Capacity(
        kwh=kwh, sigma_kwh=kwh * hypot(*parts.values()), parts={name: each for name, each in parts.items() if each > 0}
    )


@dataclass(frozen=True)
class Difference:
    """How much more one health is than another (shares of new), its standard deviation, and how likely it is none: two-sided, 0 to 1."""

    value: float
    sigma: float

    @property
    def chance(self) -> float:
        """Of a difference at least as large if there were none."""
        return 1 - erf(abs(self.value) / self.sigma / sqrt(2)) if self.sigma > 0 else float(self.value == 0)

    @property
    def told_apart(self) -> bool:
        """Whether the two differ at 95 %."""
        return self.chance < 0.05


def compare(one: tuple[float, float], other: tuple[float, float]) -> Difference:
    """Two healths, each with its standard deviation, against each other; independent errors.

    >>> compare((0.93, 0.013), (0.91, 0.013)).told_apart
    False
    """
    return Difference(one[0] - other[0], hypot(one[1], other[1]))


def between_dates(later: Capacity, earlier: Capacity, usable_kwh_new: float) -> Difference:
    """What one car's tests of two dates differ by (share of new): what is the car's own in both, such as its display's calibration, goes
    out as far as both have it alike.
    """
    one, other = ({name: each * test.kwh / usable_kwh_new for name, each in test.parts.items()} for test in (later, earlier))
    alike = [one.get(name, 0.0) - other.get(name, 0.0) for name in OF_THE_CAR if name in one and name in other]
    rest = [
        each
        for test, them in ((one, other), (other, one))
        for name, each in test.items()
        if not (name in OF_THE_CAR and name in them)
    ]
    return Difference((later.kwh - earlier.kwh) / usable_kwh_new, hypot(*alike, *rest))
