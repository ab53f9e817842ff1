"""Washer fluid: how cold a mix may get, by mass and by volume, what to mix, and what to add to a weak tank.

[1] CRC Handbook of Chemistry and Physics, "Concentrative properties of aqueous solutions": freezing points of ethanol and methanol in water
    by mass (from memory). [2] Densities at 20 °C: ethanol 0.789, methanol 0.792, water 0.998 kg/L (CRC, from memory).
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal, require
from ..grid import Curve
from ..units import Array, Number


class Alcohol(StrEnum):
    """What keeps a mix from freezing."""

    ETHANOL = "ethanol"
    METHANOL = "methanol"


_MASS = (0.0, 0.05, 0.10, 0.15, 0.20, 0.25, 0.30, 0.35, 0.40, 0.45, 0.50, 0.60)
_FREEZES_C = {
    Alcohol.ETHANOL: (0.0, -2.0, -4.5, -7.4, -10.9, -15.4, -20.5, -25.0, -29.3, -33.5, -37.7, -44.9),
    Alcohol.METHANOL: (0.0, -3.0, -6.6, -10.7, -15.0, -20.2, -25.9, -32.0, -38.6, -46.3, -54.5, -73.0),
}
for _alcohol, _points in _FREEZES_C.items():
    figure(
        f"washer.{_alcohol}_at_20",
        _points[4],
        "°C",
        Basis.FROM_MEMORY,
        "CRC Handbook: freezing point at 20 % by mass; the table goes to 60 %",
    )
_CURVES = {alcohol: Curve(_MASS, points) for alcohol, points in _FREEZES_C.items()}
MOST_MASS = _MASS[-1]
DENSITY = {
    Alcohol.ETHANOL: figure("washer.density_ethanol", 0.789, "kg/L", Basis.FROM_MEMORY, "CRC Handbook, at {20 °C}"),
    Alcohol.METHANOL: figure("washer.density_methanol", 0.792, "kg/L", Basis.FROM_MEMORY, "CRC Handbook, at {20 °C}"),
}
WATER = figure("washer.density_water", 0.998, "kg/L", Basis.FROM_MEMORY, "CRC Handbook, at {20 °C}")
MARGIN_K = figure(
    "washer.margin",
    5.0,
    "K",
    Basis.COMMON_PRACTICE,
    "colder than the coldest expected: wind on the screen, alcohol that evaporates",
)
LINE_L = figure("washer.line", 0.15, "L", Basis.COMMON_PRACTICE, "what stands in hoses and nozzles with the old mix")
SQUIRT_L = figure("washer.squirt", 0.012, "L", Basis.COMMON_PRACTICE, "one press of a second")
TANK_L = figure("washer.tank", 3.5, "L", Basis.COMMON_PRACTICE, "a usual tank")

Freezes = Callable[[float], float]
"""Freezing point (°C) by the share of concentrate in a mix (0 to 1, by volume)."""


def freeze_point_c(alcohol: Alcohol | str, mass_fraction: Number) -> Array:
    """Freezing point (°C) of alcohol in water by mass fraction, 0 to 0.6. Source [1].

    Raises: OutOfRange for a fraction outside; Refusal for another alcohol.

    >>> round(float(freeze_point_c("methanol", 0.3)), 1)
    -25.9
    """
    if alcohol not in tuple(Alcohol):
        raise Refusal("The alcohol must be ethanol or methanol.", "alcohol")
    share = np.asarray(mass_fraction, dtype=float)
    for each in np.atleast_1d(share):
        require(100 * float(each), 0, 100 * MOST_MASS, "Alcohol by mass", "%", "strength")
    return np.asarray(_CURVES[Alcohol(alcohol)](share))


def by_mass(alcohol: Alcohol, volume_fraction: Number) -> Array:
    """Mass fraction from volumes before mixing (0 to 1). Source [2]."""
    volume = np.asarray(volume_fraction, dtype=float)
    mass = volume * DENSITY[alcohol]
    return np.asarray(mass / (mass + (1 - volume) * WATER))


def by_volume(alcohol: Alcohol, mass_fraction: Number) -> Array:
    """Volume fraction before mixing from a mass fraction (0 to 1). Source [2]."""
    mass = np.asarray(mass_fraction, dtype=float)
    volume = mass / DENSITY[alcohol]
    return np.asarray(volume / (volume + (1 - mass) / WATER))


def of_strength(alcohol: Alcohol, strength: float) -> Freezes:
    """The freezing point by the share of a concentrate of so much alcohol by volume (0.05 to 1); as cold as the table goes at most."""
    require(100 * strength, 5, 100, "The concentrate's alcohol", "%", "strength")

    def freezes(share: float) -> float:
        return float(freeze_point_c(alcohol, min(MOST_MASS, float(by_mass(alcohol, strength * share)))))

    return freezes


def of_label(pure_c: float, mixed_c: float, mixed_share: float = 0.5) -> Freezes:
    """The freezing point by the share, from the label's two points: undiluted, and mixed to a share.

    Between them as ethanol goes: each point is the share of ethanol that freezes there, and these go linearly with the share.
    Raises: Refusal when the mix would freeze later than the concentrate, or either above −1 °C.
    """
    require(pure_c, -60, -1, "Undiluted it freezes at", "°C", "label_pure_c")
    require(mixed_c, -60, -1, "Mixed it freezes at", "°C", "label_mixed_c")
    if mixed_c <= pure_c:
        raise Refusal("Mixed with water it must freeze earlier than undiluted.", "label_mixed_c")
    shares = (0.0, mixed_share, 1.0)
    equivalents = (0.0, *(_fraction_at(each) for each in (mixed_c, pure_c)))

    def freezes(share: float) -> float:
        return float(_CURVES[Alcohol.ETHANOL](np.interp(share, shares, equivalents)))

    return freezes


def _fraction_at(freeze_c: float) -> float:
    """The mass fraction of ethanol that freezes at a temperature; the last of the table for what is colder."""
    curve = _CURVES[Alcohol.ETHANOL]
    if freeze_c <= float(curve(MOST_MASS)):
        return MOST_MASS
    return _falls_to(lambda share: float(curve(share)), freeze_c, MOST_MASS)


def share_for(freezes: Freezes, target_c: float) -> float | None:
    """The least share of concentrate whose mix does not freeze above a temperature; None: not even undiluted.

    Source: `freeze_point_c`, solved for the share.
    """
    if target_c >= 0:
        return 0.0
    if freezes(1.0) > target_c:
        return None
    return _falls_to(freezes, target_c, 1.0)


def _falls_to(falling: Callable[[float], float], value: float, most: float) -> float:
    """Where a falling function comes down to a value, between 0 and `most`, by halving."""
    low, high = 0.0, most
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if falling(middle) > value else (low, middle)
    return high


@dataclass(frozen=True, kw_only=True)
class TopUp:
    """What to do with a tank: litres to let out first, litres of concentrate and of water to add, the mix's freezing point then (°C), and
    squirts until the new mix is at the nozzles.
    """

    drain_l: float
    concentrate_l: float
    water_l: float
    freezes_c: float
    squirts: int


def top_up(freezes: Freezes, *, tank_l: float, now_l: float, now_c: float, target_c: float) -> TopUp | None:
    """Fill a tank so that it stands a temperature; None when not even the concentrate does.

    Args: the tank's size and what is in it (litres), at which temperature (°C) that freezes.
    Raises: OutOfRange for a tank outside 1 to 15 L or more in it than it holds.
    """
    require(tank_l, 1, 15, "The tank", "L", "tank_l")
    require(now_l, 0, tank_l, "What is in it", "L", "now_l")
    needed = share_for(freezes, target_c)
    if needed is None:
        return None
    inside = share_for(freezes, now_c)
    inside = 1.0 if inside is None else inside
    drain = 0.0
    if needed > inside and needed * tank_l - inside * now_l > tank_l - now_l + 1e-12:
        keep = (1 - needed) * tank_l / (1 - inside) if inside < 1 else now_l
        drain = max(0.0, now_l - keep)
    kept = now_l - drain
    concentrate = min(max(0.0, needed * tank_l - inside * kept), tank_l - kept)
    share = (inside * kept + concentrate) / tank_l
    return TopUp(
        drain_l=drain,
        concentrate_l=concentrate,
        water_l=tank_l - kept - concentrate,
        freezes_c=freezes(share),
        squirts=-(-int(1000 * LINE_L) // int(1000 * SQUIRT_L)),
    )
