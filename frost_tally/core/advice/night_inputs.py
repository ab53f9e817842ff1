"""What can be set for a night, and what of it a kept plan keeps."""

from dataclasses import dataclass
from datetime import time
from typing import get_type_hints

from ..charge.control import How
from ..charge.saved_plan import SavedPlan
from ..drive.road import Surface
from ..heat.warm import WarmUpChoice
from .limit import Charges

USUAL, LISTED = "usual", "listed"
DECIDED = ("limit", "warm_up")
"""The inputs that are decided for each night where nobody sets them."""


@dataclass(frozen=True, kw_only=True)
class NightInputs:
    """What can be set for a night. Levels 0 to 1, °C, kPa (gauge, as read at the reading's temperature), km, km/h.

    From `held_from` until `held_until` the house leaves the car less (the same time twice: never).

    `day` says what the kilometres are of: USUAL, LISTED (departures), or the key of a kept day.
    """

    soc_now: float
    limit: float
    depart: time
    plug_in: time
    km: float
    motorway_kmh: float
    tyre_kpa: float
    cabin_c: float
    out_now_c: float
    out_low_c: float
    people: int
    warm_up: WarmUpChoice
    day: str = USUAL
    surface: Surface = Surface.DRY
    held_from: time = time()
    held_until: time = time()
    control: How = How.LINKED
    charges: Charges = Charges.SHALLOW


def overrides_of(kept: SavedPlan) -> dict[str, object]:
    """The inputs of a kept plan that were not as usual, and those that were decided for it, as they were."""
    kinds = get_type_hints(NightInputs)
    names = dict.fromkeys((*kept.overrides, *DECIDED))
    found = {name: kept.inputs[name] for name in names if name in kept.inputs and name in kinds}
    return {name: time.fromisoformat(str(value)) if kinds[name] is time else kinds[name](value) for name, value in found.items()}
