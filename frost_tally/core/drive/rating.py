"""The dashboard's kilometres: a rating times the level, by two schemes, beside which tomorrow is compared."""

from dataclasses import dataclass

from ..basis import Basis, figure
from ..car import Car, Factors
from .cycles import schedule
from .road import Conditions, cycle_energy_kwh

TOWN_SHARE = figure("rating.town_share", 0.55, "", Basis.PUBLISHED, "40 CFR 600.210: 55 % city, 45 % highway")
LABEL = figure(
    "rating.label_factor", 0.70, "", Basis.PUBLISHED, "40 CFR 600.210-12: default adjustment of an electric car's range"
)
OTHER_SCHEME = figure(
    "rating.other_scheme", 1.15, "", Basis.FROM_MEMORY, "the world-wide procedure rates 10–20 % more than the label"
)
RATED_C = 22.0


@dataclass(frozen=True)
class Rated:
    """Kilometres that a dashboard would show for a level (0 to 1) by the label's scheme and by the world-wide procedure."""

    label_km: float
    procedure_km: float


def dashboard_km(car: Car, soc: float) -> Rated:
    """Rating times level: consumption of both schedules at 22 °C, new pack, no climate, with the schemes' factors.

    Source: 40 CFR 600.210 for the label; the second scheme against it from memory.
    """
    mild = Conditions(ambient_c=RATED_C)
    per_km = []
    for name in ("udds", "hwfet"):
        speeds = schedule(name)
        per_km.append(cycle_energy_kwh(_plain(car), speeds, mild) / (float(speeds.sum()) / 1000.0))
    mean = TOWN_SHARE * per_km[0] + (1 - TOWN_SHARE) * per_km[1]
    label = LABEL * car.pack.usable_kwh_new / mean
    return Rated(label * soc, OTHER_SCHEME * label * soc)


def _plain(car: Car) -> Car:
    """The car as it was rated: nothing learnt."""
    return Car(
        name=car.name,
        pack=car.pack,
        body=car.body,
        cabin=car.cabin,
        charger=car.charger,
        drivetrain=car.drivetrain,
        tyres=car.tyres,
        factors=Factors(),
    )
