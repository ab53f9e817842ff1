"""What a span of the log adds up to: energy, losses, money, kilometres; and what the same energy would have cost otherwise."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from itertools import pairwise

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


def filled(wall_kwh: Array, pack_kwh: Array, soc_added: Array, share: Array, usable_kwh: float) -> tuple[Array, Array]:
    """Energy at the wall and into the pack of charges (kWh), where one of both, or both, are open (not a number).

    Args: arrays of shape (charges,): both energies, level added (0 to 1, or open), share of the wall's energy that arrives. The
    pack's follows from the levels, else from the wall's; the wall's from the pack's; a pack never gets more than the wall gave.
    """
    pack = np.where(np.isnan(pack_kwh), soc_added * usable_kwh, pack_kwh)
    wall = np.where(np.isnan(wall_kwh), np.nan_to_num(pack) / share, wall_kwh)
    return wall, np.where(np.isnan(pack), wall * share, np.minimum(pack, wall))


def plugged_since(begun_s: Array, home_s: Array, most_s: float) -> Array:
    """When a car could have begun to charge (s since 1970): when it last came home, at most so long before it did begin."""
    homes = np.sort(home_s)
    at = np.searchsorted(homes, begun_s, side="right") - 1
    since = homes[np.maximum(at, 0)] if len(homes) else begun_s
    return np.where(at >= 0, np.maximum(since, begun_s - most_s), begun_s)


@dataclass(frozen=True, kw_only=True)
class Sums:
    """What a span adds up to: kWh, km, money, kWh in dear hours of those at home; and what home's energy would have cost at once when
    plugged in, and at the tariff's mean price. `priced` is the cost of home's energy by the tariff, to hold those two against.
    `uncosted`: charges elsewhere whose cost nobody wrote down, their kWh, and what those would be at a typical public price; they are in no
    other sum of money.
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
    uncosted: int = 0
    uncosted_kwh: float = 0.0
    uncosted_typical: float = 0.0

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


@dataclass(frozen=True, eq=False, kw_only=True)
class Drives:
    """Drives of a car; arrays of shape (drives,): when they left (s since 1970), km, kWh from the pack."""

    left_s: Array
    km: Array
    kwh: Array


def share_within(charges: Charges, low_s: float, high_s: float) -> Array:
    """How much of each charge lies in a span (s since 1970), 0 to 1; one without length lies where it began."""
    whole = charges.ended_s - charges.begun_s
    part = np.minimum(charges.ended_s, high_s) - np.maximum(charges.begun_s, low_s)
    inside = (charges.begun_s >= low_s) & (charges.begun_s < high_s)
    return np.asarray(np.where(whole > 0, np.clip(part / np.where(whole > 0, whole, 1.0), 0.0, 1.0), inside))


def summed(
    charges: Charges, drives: Drives, cells: Cells, *, wall_kw: float, edges_s: Sequence[float], public_price: float
) -> tuple[Sums, ...]:
    """Sums between each two edges (s since 1970). `cells` reach from before the first plug-in to after the last charge; `public_price` is
    what a kWh elsewhere costs where nobody wrote it down.

    A charge is taken as drawn evenly from its begin to its end, so that one over an edge counts on both sides of it, and is counted where
    it began; at once it is drawn with `wall_kw`, what the outlet gives, from the moment it was plugged in.
    """
    kwh, home = charges.wall_kwh, charges.wall_kwh * charges.at_home
    unknown = np.isnan(charges.cost) & ~charges.at_home
    at_once = home * cells.prices(charges.plugged_s, charges.plugged_s + 3600 * kwh / wall_kw)
    means = cells.prices(np.array(edges_s[:-1]), np.array(edges_s[1:]))
    found = []
    for i, (low, high) in enumerate(pairwise(edges_s)):
        here, part = (charges.begun_s >= low) & (charges.begun_s < high), share_within(charges, low, high)
        begin, end = np.maximum(charges.begun_s, low), np.minimum(charges.ended_s, high)
        by_tariff = kwh * cells.prices(begin, end)
        columns = {
            "wall_kwh": kwh,
            "pack_kwh": charges.pack_kwh,
            "home_kwh": home,
            "dear_kwh": home * cells.dear_shares(begin, end),
            "cost": np.where(unknown, 0.0, np.where(np.isnan(charges.cost), by_tariff, charges.cost)),
            "priced": by_tariff * charges.at_home,
            "at_once": at_once,
            "uncosted_kwh": kwh * unknown,
            "uncosted_typical": kwh * unknown * public_price,
        }
        gone = (drives.left_s >= low) & (drives.left_s < high)
        told = {name: float((column * part)[part > 0].sum()) for name, column in columns.items()}
        driven = {"km": float(drives.km[gone].sum()), "used_kwh": float(drives.kwh[gone].sum())}
        counts = {"charges": int(here.sum()), "drives": int(gone.sum()), "uncosted": int((here & unknown).sum())}
        found.append(Sums(**told, **driven, **counts, at_mean=told["home_kwh"] * float(means[i])))  # type: ignore[arg-type]
    return tuple(found)
