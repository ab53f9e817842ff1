"""What the pack and the cabin take: age, cold, braking that is refused, heat, and standing."""

from dataclasses import replace

import numpy as np

from ...battery.cold import REGEN_FADES_SOC
from ...units import Array
from ..day import Park, Scenarios
from .base import Cause, Kind, Switch, TalliedDay

COLD_PACK_C, REGEN_C = 25.0, 15.0


class Age(Cause):
    """The pack holds less than when it was new."""

    key = "age"

    def differs(self, day: TalliedDay) -> bool:
        return day.car.pack.soh < 1

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, capacity_kwh=np.where(on, day.car.pack.usable_kwh, day.car.pack.usable_kwh_new))


class ColdPack(Switch):
    """A cold pack holds some energy back and resists more."""

    key, kind, figures = "cold_pack", Kind.COLD, ("pack.usable_nmc.at_-10", "pack.resistance.at_-10")

    def differs(self, day: TalliedDay) -> bool:
        return day.coldest_c < COLD_PACK_C


class LostRegen(Switch):
    """A cold or full pack refuses braking energy."""

    key, kind = "regen_limit", Kind.COLD
    figures = ("pack.regen_none_below", "pack.regen_full_from", "pack.regen_fades_from_level")

    def differs(self, day: TalliedDay) -> bool:
        return day.coldest_c < REGEN_C or day.start.soc > REGEN_FADES_SOC


class Climate(Switch):
    """Warming the cabin, or cooling it."""

    key, kind, figures = "climate_on", Kind.HEAT, ("cabin.conductance_moving", "cabin.capacity")
    turned_figures = ("climate.sun_gain", "climate.open_air", "climate.cooling_to")

    def differs(self, day: TalliedDay) -> bool:
        again = any(isinstance(leg, Park) and leg.warm_to_c is not None for leg in day.trip.legs)
        return again or day.conditions.cabin_set_c is not None

    def turned(self, day: TalliedDay) -> bool:
        set_c = day.conditions.cabin_set_c
        return set_c is not None and day.conditions.ambient_c > set_c


class PackHeat(Switch):
    """The car warms its pack while it drives."""

    key, kind, figures = "pack_heat", Kind.HEAT, ("pack.conductance_moving",)

    def differs(self, day: TalliedDay) -> bool:
        pack, at = day.car.pack, day.conditions
        return at.heater * at.pack_heat * pack.drive_heater_kw > 0 and day.coldest_c < pack.drive_heat_below_c


class Standing(Cause):
    """A parked car stays a little awake."""

    key, figures = "standby", ("parked.idle",)

    def differs(self, day: TalliedDay) -> bool:
        return day.standby_soc > 0 or any(isinstance(leg, Park) for leg in day.trip.legs)

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, standby=on, soc=cases.soc + (1 - on) * day.standby_soc)
