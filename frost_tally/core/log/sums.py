"""What a span of the log adds up to: energy, losses, money, kilometres; and what the same energy would have cost otherwise."""

from dataclasses import dataclass, fields

import numpy as np
import numpy.typing as npt

from ..units import Array
from .bill import Cells


@dataclass(frozen=True, eq=False, kw_only=True)
class Charges:
    """Charges of a car; arrays of shape (charges,): begin and end (s since 1970), kWh at the wall and into the pack, cost (not a number
    where nobody wrote it down), whether at home, and when the car could have begun (s): when it was plugged in.
    """

    begun_s: Array
    ended_s: Array
    wall_kwh: Array
    pack_kwh: Array
    cost: Array
    at_home: npt.NDArray[np.bool_]
    plugged_s: Array


@dataclass(frozen=True, kw_only=True)
class Sums:
    """What a span adds up to: kWh, km, money, kWh in dear hours of those at home; and what home's energy would have cost at once when
    plugged in, and at the tariff's mean price. `priced` is the cost of home's energy by the tariff, to hold those two against.
    """

    wall_kwh: float = 0.0
    pack_kwh: float = 0.0
    home_kwh: float = 0.0
    dear_kwh: float = 0.0
    km: float = 0.0
    used_kwh: float = 0.0
    cost: float = 0.0
    priced: float = 0.0
    at_once: float = 0.0
    at_mean: float = 0.0
    charges: int = 0
    drives: int = 0

    def __add__(self, other: "Sums") -> "Sums":
        return Sums(**{each.name: getattr(self, each.name) + getattr(other, each.name) for each in fields(Sums)})

    @property
    def lost_kwh(self) -> float:
        """What did not arrive in the pack."""
        return self.wall_kwh - self.pack_kwh

    @property
    def dear_share(self) -> float:
        """Share of home's energy that was drawn in dear hours, 0 to 1."""
        return self.dear_kwh / self.home_kwh if self.home_kwh else 0.0

    @property
    def cost_per_100_km(self) -> float | None:
        """Cost for 100 km; None without any."""
        return 100 * self.cost / self.km if self.km else None

    @property
    def km_per_kwh(self) -> float | None:
        """Kilometres for a kWh from the wall; None without any."""
        return self.km / self.wall_kwh if self.wall_kwh else None

    @property
    def saved_at_once(self) -> float:
        """What waiting for cheap hours saved."""
        return self.at_once - self.priced

    @property
    def saved_at_mean(self) -> float:
        """What choosing the hours saved against the tariff's mean price."""
        return self.at_mean - self.priced


def summed(charges: Charges, cells: Cells, wall_kw: float, mean_price: float, km: float, used_kwh: float, drives: int) -> Sums:
    """Sums of a span. `cells` reach from before the first plug-in to after the last charge; `wall_kw` is what the outlet gives.

    A charge is taken as drawn evenly from its begin to its end; at once it is drawn with the outlet's power from the moment it was
    plugged in.
    """
    total = Sums(km=km, used_kwh=used_kwh, drives=drives, charges=len(charges.wall_kwh))
    dear = priced = at_once = cost = home = 0.0
    for i in range(len(charges.wall_kwh)):
        begun, ended, kwh = float(charges.begun_s[i]), float(charges.ended_s[i]), float(charges.wall_kwh[i])
        by_tariff = cells.cost(begun, ended, kwh)
        written = float(charges.cost[i])
        cost += by_tariff if np.isnan(written) else written
        if charges.at_home[i]:
            plugged = float(charges.plugged_s[i])
            home += kwh
            dear += kwh * cells.dear_share(begun, ended)
            priced += by_tariff
            at_once += cells.cost(plugged, plugged + 3600 * kwh / wall_kw, kwh)
    return total + Sums(
        wall_kwh=float(charges.wall_kwh.sum()), pack_kwh=float(charges.pack_kwh.sum()), home_kwh=home, dear_kwh=dear, cost=cost,
        priced=priced, at_once=at_once, at_mean=home * mean_price,
    )  # fmt: skip
