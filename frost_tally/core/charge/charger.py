"""A car on a supply with its habit, as a row of nights is planned for it."""

from dataclasses import dataclass

from ..car import Car
from ..errors import Refusal
from ..heat.warm import WarmUpChoice
from ..units import Array
from .control import Control
from .night_clock import HeldHours
from .plan import LINKED, NEVER_HELD
from .supply import ChargeRate


@dataclass(frozen=True, kw_only=True)
class Charger:
    """A car on a supply with its habit: the limit (0 to 1), the warm-up to `cabin_c` (°C), how its nights are carried out and when the
    house leaves less; `pack_price` is that of a new pack per kWh, by which wear counts in money (0: it does not).
    """

    car: Car
    rate: ChargeRate
    limit_soc: float
    choice: WarmUpChoice
    cabin_c: float
    control: Control = LINKED
    held: HeldHours = NEVER_HELD
    pack_price: float = 0.0

    def of_day(self) -> tuple[Array, Array]:
        """What each quarter hour of the local day lets into the pack where it lets anything, as a share of full power, and how much more an
        hour's worth of full power takes from the wall then: shape (96,) each.
        """
        here, taken = self.rate.held_to(self.held.amps) or self.rate, self.held.of_cells()
        share, wall = here.pack_kw / self.rate.pack_kw, here.wall_kw / self.rate.wall_kw
        strength = 1.0 - (1.0 - share) * taken
        return strength, (1.0 - (1.0 - wall) * taken) / strength


def charger(
    car: Car,
    rate: ChargeRate,
    limit_soc: float,
    choice: WarmUpChoice,
    cabin_c: float = 20.0,
    *,
    control: Control = LINKED,
    held: HeldHours = NEVER_HELD,
    pack_price: float = 0.0,
) -> Charger:
    """A car on a supply. Raises: Refusal for a limit outside 10 to 100 %."""
    if not 0.1 <= limit_soc <= 1.0:
        raise Refusal("The limit must lie between 10 and 100 %.", "limit")
    return Charger(
        car=car, rate=rate, limit_soc=limit_soc, choice=choice, cabin_c=cabin_c, control=control, held=held, pack_price=pack_price
    )
