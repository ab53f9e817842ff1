"""How much of the wall's energy arrives in the pack, measured from a car's own charges: at mild temperatures, and what the cold takes."""

from dataclasses import dataclass
from statistics import median

import numpy as np

from ..basis import Basis, figure
from ..units import Array

MILD_C = figure("log.mild", 10.0, "°C", Basis.COMMON_PRACTICE, "from here on up a pack is not warmed for charging")
ENOUGH = figure("log.enough_charges", 30.0, "", Basis.COMMON_PRACTICE, "charges from level to level replace the class’s number")
LEAST_SOC = figure(
    "log.least_charge", 0.1, "", Basis.COMMON_PRACTICE, "of level at least, for a level is read to whole per cents"
)
LEVEL_SIGMA = 0.004
TUKEY, ROUNDS = 4.685, 20


@dataclass(frozen=True, eq=False, kw_only=True)
class Efficiency:
    """Share of the wall's energy (its overhead taken off) that arrives at mild temperatures, its standard error, what each kelvin below
    takes of it, from how many charges; the points behind it: outside °C and share, shape (charges,).
    """

    value: float
    sigma: float
    lost_per_k: float
    count: int
    out_c: Array
    shares: Array

    @property
    def enough(self) -> bool:
        """Whether it replaces the class's number."""
        return self.count >= ENOUGH

    def at(self, out_c: float) -> float:
        """The share at an outside temperature."""
        return self.value - self.lost_per_k * max(0.0, MILD_C - out_c)


def measure(
    wall_kwh: Array, soc_added: Array, hours: Array, *, out_c: Array, usable_kwh: float, overhead_kw: float
) -> Efficiency | None:
    """Fit the share to charges; None for fewer than three.

    Args: arrays of shape (charges,): kWh at the wall, level added (0 to 1), hours it drew, outside °C. A line below `MILD_C`, flat above;
    Tukey's bisquare weights let wrong rows lose their say. Source: weighted least squares; J. W. Tukey's biweight.
    """
    drawn = wall_kwh - overhead_kw * hours
    good = (soc_added >= LEAST_SOC) & (drawn > 0.3) & np.isfinite(out_c) & np.isfinite(drawn)
    shares = usable_kwh * soc_added[good] / drawn[good]
    sane = (shares > 0.4) & (shares < 1.05)
    shares, air, added = shares[sane], out_c[good][sane], soc_added[good][sane]
    if len(shares) < 3:
        return None
    cold = np.maximum(0.0, MILD_C - air)
    rows = np.column_stack([np.ones(len(shares)), -cold]) if np.ptp(cold) > 3.0 else np.ones((len(shares), 1))
    noise = LEVEL_SIGMA / added + 0.005
    weight = 1 / noise**2
    found = np.array([median(shares.tolist()), 0.0])[: rows.shape[1]]
    for _ in range(ROUNDS):
        left = (shares - rows @ found) / noise
        scale = max(1.4826 * median(np.abs(left).tolist()), 0.3)
        say = np.square(np.clip(1 - np.square(left / (TUKEY * scale)), 0.0, 1.0)) * weight
        normal = rows.T @ (rows * say[:, None]) + np.eye(rows.shape[1]) * 1e-9
        found = np.linalg.solve(normal, rows.T @ (say * shares))
    sigma = scale * float(np.sqrt(np.linalg.inv(normal)[0, 0]))
    lost = float(found[1]) if len(found) > 1 else 0.0
    return Efficiency(value=float(found[0]), sigma=sigma, lost_per_k=lost, count=len(shares), out_c=air, shares=shares)
