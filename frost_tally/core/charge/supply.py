"""The supply: what an outlet, its lead and the car allow, and which of them binds. Why: docs/decisions/0037."""

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated

from ..basis import Basis, figure
from ..car import Car
from ..errors import OutOfRange, require
from ..fields import Field, declared

MINIMUM_A = figure("supply.minimum_current", 6.0, "A", Basis.PUBLISHED, "IEC 61851-1: no charging under 6 A")
CONTINUOUS_SHARE = figure(
    "supply.continuous_share", 0.8, "", Basis.PUBLISHED, "NEC 210.20(A), 625.41: breaker of 125 % of a continuous load"
)

COPPER = figure("supply.copper", 0.0175, "Ω·mm²/m", Basis.FROM_MEMORY, "resistivity of copper at about {20 °C}")


class Code(StrEnum):
    """How a breaker's rating limits a load that runs for hours."""

    NORTH_AMERICA = "north_america"
    IEC = "iec"


HOUSE_PHASES = {Code.NORTH_AMERICA: 1, Code.IEC: 3}
"""Phases of the mains where circuits follow a code: cars are sold there with chargers to match. Basis: common practice."""


class Limit(StrEnum):
    """What can hold an outlet back."""

    BREAKER = "breaker"
    CODE_RULE = "code_rule"
    SHARED = "shared"
    LEAD = "lead"
    SELECTOR = "selector"
    CAR_SETTING = "car_setting"
    CAR_CURRENT = "car_current"
    CAR_POWER = "car_power"
    HOUSE = "house"
    SEEN = "seen"


_SHARE = {Code.NORTH_AMERICA: CONTINUOUS_SHARE, Code.IEC: 1.0}


@dataclass(frozen=True, kw_only=True)
class Supply:
    """An outlet or wall unit. Volts are phase to neutral for three phases; currents in A; None: no such limit.

    `shared_a` is what others on the same circuit may draw meanwhile; 0 for a dedicated circuit, as both codes want it.
    """

    name: str
    voltage_v: Annotated[float, Field("voltage", 90, 300, what="Voltage (phase to neutral)")]
    phases: Annotated[int, Field(codes=(1, 3))]
    breaker_a: Annotated[float, Field("current", 6, 125, what="The breaker")]
    code: Annotated[Code, Field()] = Code.IEC
    cable_a: Annotated[float | None, Field("current", MINIMUM_A, 100, what="The lead")] = None
    selector_a: Annotated[float | None, Field("current", MINIMUM_A, 100, what="The selector")] = None
    car_setting_a: Annotated[float | None, Field("current", MINIMUM_A, 100, what="The car’s own setting")] = None
    shared_a: Annotated[float, Field("current", 0, 100, empty=0.0)] = 0.0

    @property
    def continuous_a(self) -> float:
        """What the code lets flow for hours, A: a share of the breaker. Source: `CONTINUOUS_SHARE`; IEC 60364-7-722."""
        return _SHARE[self.code] * self.breaker_a

    def drop_v(self, amps: float, run_m: float, mm2: float) -> float:
        """Volts lost on a run (m) of copper of a cross-section (mm²): there and back on one phase, along one conductor on three.

        Source: Ohm's law; `COPPER`.
        """
        return amps * COPPER * run_m / mm2 * (2.0 if self.phases == 1 else 1.0)

    def checked(self) -> "Supply":
        """The same supply. Raises: OutOfRange, with the field, when the wiring as entered cannot be."""
        for column, span in SPANS.items():
            if (value := getattr(self, column)) is not None:
                require(value, span.low, span.high, span.what, span.unit, column)
        if self.phases not in (1, 3):
            raise OutOfRange("Phases must be 1 or 3.", "phases")
        if self.phases == 3 and self.voltage_v < 200:
            raise OutOfRange(
                f"{self.voltage_v:g} V with three phases is not a charging supply; use 1 phase, or 220–240 V.", "phases"
            )
        if self.cable_a is not None and self.selector_a is not None and self.selector_a > self.cable_a:
            raise OutOfRange(f"The selector cannot be above the lead's {self.cable_a:g} A.", "selector_a")
        require(self.shared_a, 0, self.breaker_a, "What shares the circuit", "A", "shared_a")
        return self


SPANS = {column: each.field for column, each in declared(Supply).items() if each.field.what}
"""The range of every number of a supply that is checked, by its name."""


@dataclass(frozen=True, kw_only=True)
class ChargeRate:
    """Result: current (A), what limits it, power at the wall and into the pack (kW), and every limit looked at (A)."""

    amps: float
    limited_by: Limit
    wall_kw: float
    pack_kw: float
    limits: tuple[tuple[Limit, float], ...]
    efficiency: float
    overhead_kw: float

    def into_pack_kw(self, wall_kw: float) -> float:
        """Power that reaches the pack from a power at the wall, never negative."""
        return max(0.0, self.efficiency * (wall_kw - self.overhead_kw))

    def held_to(self, amps: float, by: Limit = Limit.HOUSE) -> "ChargeRate | None":
        """The same with fewer amperes; None where they are under 6 (IEC 61851-1) or carry no more than the overhead."""
        if amps >= self.amps:
            return self
        wall_kw = self.wall_kw * amps / self.amps
        pack_kw = self.into_pack_kw(wall_kw)
        if amps < MINIMUM_A - 1e-9 or pack_kw <= 0:
            return None
        return replace(self, amps=amps, limited_by=by, wall_kw=wall_kw, pack_kw=pack_kw)


def pilot_amps(duty_percent: float) -> float:
    """Current a control pilot signals by its duty cycle (10–96 %), A. Source: SAE J1772.

    >>> round(pilot_amps(16), 1), round(pilot_amps(53.3), 0)
    (9.6, 32.0)
    """
    require(duty_percent, 10, 96, "Duty cycle", "%")
    return 0.6 * duty_percent if duty_percent <= 85 else 2.5 * (duty_percent - 64)


def charge_rate(supply: Supply, car: Car) -> ChargeRate:
    """Power at the wall and into the pack, and the limit that binds.

    amps = min of all limits; wall_kw = V·A·phases/1000; pack_kw = efficiency·(wall_kw − overhead_kw), never negative.
    Raises: OutOfRange when under 6 A are left (IEC 61851-1) or the supply is not possible.
    """
    supply.checked()
    phases = min(supply.phases, car.charger.phases)
    per_kw = supply.voltage_v * phases / 1000.0
    allowed_a = supply.continuous_a
    looked_at = (
        (Limit.BREAKER, supply.breaker_a),
        (Limit.CODE_RULE, allowed_a if supply.code is not Code.IEC else None),
        (Limit.SHARED, allowed_a - supply.shared_a if supply.shared_a else None),
        (Limit.LEAD, supply.cable_a),
        (Limit.SELECTOR, supply.selector_a),
        (Limit.CAR_SETTING, supply.car_setting_a),
        (Limit.CAR_CURRENT, car.charger.ac_limit_a),
        (Limit.CAR_POWER, car.charger.ac_limit_kw / per_kw),
    )
    limits = tuple((name, amps) for name, amps in looked_at if amps is not None)
    limited_by, amps = min(limits, key=lambda item: item[1])
    if amps < MINIMUM_A - 1e-9:
        raise OutOfRange(
            f"Only {amps:.1f} A are left by the {limited_by.replace('_', ' ')}; under 6 A no car charges.", "breaker_a"
        )
    wall_kw = amps * per_kw
    efficiency, overhead_kw = car.charger.efficiency, car.charger.overhead_kw
    pack_kw = max(0.0, efficiency * (wall_kw - overhead_kw))
    return ChargeRate(
        amps=amps,
        limited_by=limited_by,
        wall_kw=wall_kw,
        pack_kw=pack_kw,
        limits=limits,
        efficiency=efficiency,
        overhead_kw=overhead_kw,
    )
