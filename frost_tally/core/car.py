"""The car: pack, body, cabin, charger, drivetrain and tyres; generic presets by class, no real models. Why: docs/decisions/0060."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Any

from .basis import Basis, figure
from .battery.cold import Chemistry
from .errors import require
from .fields import Field, declared, plain_values, with_values

SPECIFIC_HEAT = figure("pack.specific_heat", 1000.0, "J/(kg·K)", Basis.FROM_MEMORY, "lithium-ion cells with housing")
KG_PER_KWH = {
    Chemistry.NMC: figure("pack.mass_nmc", 6.5, "kg/kWh", Basis.FROM_MEMORY, "pack mass, typical"),
    Chemistry.LFP: figure("pack.mass_lfp", 8.0, "kg/kWh", Basis.FROM_MEMORY, "pack mass, typical"),
}
PARKED_W_PER_K = figure("pack.conductance_parked", 10.0, "W/K", Basis.FROM_MEMORY, "time constant about 12 h")
HEATER_TO_PACK = figure("pack.heater_efficiency", 0.9, "", Basis.FROM_MEMORY, "share of the pack heater’s power that warms cells")
MOVING_W_PER_K = figure("pack.conductance_moving", 25.0, "W/K", Basis.FROM_MEMORY, "air under the floor")
CABIN_J_PER_K = figure(
    "cabin.capacity", 120_000.0, "J/K", Basis.FROM_MEMORY, "air, trim, glass and seats as far as they take part, 100–150 kJ/K"
)
CABIN_MOVING = figure("cabin.conductance_moving", 110.0, "W/K", Basis.FROM_MEMORY, "walls, glass and fresh air")
CABIN_STANDING = figure(
    "cabin.conductance_standing", 85.0, "W/K", Basis.FROM_MEMORY, "fresh air, but no wind of the drive: in a jam"
)
CABIN_PARKED = figure("cabin.conductance_parked", 60.0, "W/K", Basis.FROM_MEMORY, "walls and glass")
RESISTANCE_KWH_OHM = figure("pack.resistance", 5.0, "Ω·kWh", Basis.FROM_MEMORY, "0.08 Ω for 60 kWh at 360 V and {25 °C}")
PACK_VOLTAGE_V = figure("pack.voltage", 360.0, "V", Basis.FROM_MEMORY, "nominal, 400 V class")
CHARGER_EFFICIENCY = figure("supply.efficiency", 0.93, "", Basis.COMMON_PRACTICE, "wall to pack once awake, 0.92–0.95")
_AWAKE = "what is awake while it charges; 120 V gave 83.8 %, 240 V × 3.3 kW 89.4 % wall to pack (Sears et al., 2014)"
CHARGER_OVERHEAD_KW = figure("supply.overhead_car", 0.2, "kW", Basis.FROM_MEMORY, f"a car: {_AWAKE}")
LARGE_VAN_OVERHEAD_KW = figure("supply.overhead_large_van", 0.4, "kW", Basis.COMMON_PRACTICE, "a large van: more that is awake")
DRIVE_HEAT_TO_C = figure(
    "pack.drive_heat_to",
    8.0,
    "°C",
    Basis.COMMON_PRACTICE,
    "a car with a pack heater warms a soaked pack to about {5–10 °C} as it drives",
)
DRIVE_EFFICIENCY = figure("road.drive_efficiency", 0.89, "", Basis.FROM_MEMORY, "pack to wheel, mean of town and motorway")
REGEN_EFFICIENCY = figure("road.regen_efficiency", 0.82, "", Basis.FROM_MEMORY, "wheel to pack when braking")
REGEN_KW = figure("road.regen_power", 60.0, "kW", Basis.FROM_MEMORY, "braking power a warm pack takes, typical")
STANDBY_PER_DAY = figure("parked.idle", 0.01, "1/day", Basis.COMMON_PRACTICE, "level lost a day, 0.3–1.5 %")


class Preheats(StrEnum):
    """Whether the car warms its pack before departure when asked to warm the cabin."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "unknown"


@dataclass(frozen=True, kw_only=True)
class Pack:
    """Traction battery. `soh` is usable capacity today ÷ when new, as the owner measured or entered it.

    While driving it is heated until `drive_heat_to_c` (None: never) when it is colder than `drive_heat_from_c` (None: the same), with
    `drive_heat_kw` of electricity (None: what its heater has); `drive_heat_off`: the driver can switch that off. `most_kw` is what it
    gives warm (None: not known). `preheat_kw` and `preheat_to_c` are of a warm-up before departure as its owner's notes tell it (None:
    `heater_kw`, and by chemistry).
    """

    chemistry: Annotated[Chemistry, Field()]
    usable_kwh_new: Annotated[float, Field("energy", 5, 250, 0.1, what="Usable capacity")]
    soh: Annotated[float, Field("percent", 0.4, 1.05, what="Health")] = 1.0
    heater_kw: Annotated[float, Field("power", 0, 15, 0.1, column="pack_heater_kw", what="Pack heater")] = 0.0
    preheats: Annotated[Preheats, Field()] = Preheats.UNKNOWN
    drive_heat_to_c: Annotated[float | None, Field("temperature", -10, 40, 0.5, what="Pack heating on the way")] = None
    drive_heat_from_c: Annotated[float | None, Field("temperature", -30, 40, 0.5, what="Pack heating on the way")] = None
    drive_heat_kw: Annotated[float | None, Field("power", 0.3, 15, 0.1, what="Pack heating on the way")] = None
    drive_heat_off: Annotated[bool, Field(empty=False)] = False
    preheat_kw: float | None = None
    preheat_to_c: float | None = None
    most_kw: Annotated[float | None, Field("power", 10, 1500, what="Most power")] = None

    @property
    def usable_kwh(self) -> float:
        """Usable capacity today at 25 °C, kWh."""
        return self.usable_kwh_new * self.soh

    @property
    def preheater_kw(self) -> float:
        """What heats it before departure, kW of electricity."""
        return self.heater_kw if self.preheat_kw is None else self.preheat_kw

    @property
    def drive_heater_kw(self) -> float:
        """What heats it while driving, kW of electricity; 0 where nothing does."""
        if self.drive_heat_to_c is None:
            return 0.0
        return self.heater_kw if self.drive_heat_kw is None else self.drive_heat_kw

    @property
    def drive_heat_below_c(self) -> float:
        """Colder than this it begins to be heated while driving, °C."""
        to_c = -273.0 if self.drive_heat_to_c is None else self.drive_heat_to_c
        return to_c if self.drive_heat_from_c is None else min(self.drive_heat_from_c, to_c)

    @property
    def capacity_j_per_k(self) -> float:
        """Heat capacity, J/K: specific heat × mass by chemistry."""
        return SPECIFIC_HEAT * KG_PER_KWH[self.chemistry] * self.usable_kwh_new

    @property
    def resistance_ohm(self) -> float:
        """Internal resistance at 25 °C, Ω, scaled from a typical pack by capacity."""
        return RESISTANCE_KWH_OHM / self.usable_kwh_new


@dataclass(frozen=True)
class Body:
    """Mass with the driver (kg) and drag area Cd·A (m²)."""

    mass_kg: Annotated[float, Field("mass", 400, 6000, what="Mass")]
    drag_area_m2: Annotated[float, Field("area", 0.3, 5, 0.01, what="Drag area")]


@dataclass(frozen=True)
class Cabin:
    """Heater power as heat (kW), and whether a heat pump makes it."""

    heater_kw: Annotated[float, Field("power", 0.5, 15, 0.1, column="cabin_heater_kw", what="Cabin heater")] = 5.5
    heat_pump: Annotated[bool, Field()] = False


@dataclass(frozen=True)
class OnboardCharger:
    """AC limit in A per phase, phases used, and AC power limit in kW."""

    ac_limit_a: Annotated[float, Field("current", 6, 100, what="The car’s AC limit", empty=None)] = 16.0
    phases: Annotated[int, Field(column="ac_phases", codes=(1, 3))] = 3
    ac_limit_kw: Annotated[float, Field("power", 1, 50, 0.1, what="The car’s AC limit")] = 11.0
    efficiency: float = CHARGER_EFFICIENCY
    overhead_kw: float = CHARGER_OVERHEAD_KW


@dataclass(frozen=True)
class Drivetrain:
    """Pack to wheel when pushing, wheel to pack when braking, what runs all the time and the most a warm pack takes (kW); the share of the
    braking that is left to friction brakes.
    """

    efficiency: float = DRIVE_EFFICIENCY
    regen_efficiency: float = REGEN_EFFICIENCY
    auxiliary_kw: float = 0.3
    regen_kw: float = REGEN_KW
    friction_share: Annotated[float, Field("percent", 0, 1, what="The friction brakes' share", empty=0.0)] = 0.0


@dataclass(frozen=True)
class Tyres:
    """Placard pressure (kPa, cold gauge) and rolling coefficient at 25 °C and placard pressure."""

    placard_kpa: Annotated[float, Field("pressure", 150, 600, what="Placard pressure")] = 250.0
    rolling_coefficient: Annotated[float, Field("ratio", 0.004, 0.02, 0.0001, what="Rolling coefficient")] = 0.0095
    winter: Annotated[bool, Field(column="winter_tyres")] = False


FACTOR_SIGMA = (
    figure("learn.base", 0.10, "", Basis.FROM_MEMORY, "spread of motion among cars and drivers, one standard deviation"),
    figure("learn.heat", 0.30, "", Basis.FROM_MEMORY, "spread of heating among cars and drivers, one standard deviation"),
    figure("learn.cold", 0.30, "", Basis.FROM_MEMORY, "spread of what the cold withholds among cars, one standard deviation"),
)
DAY_SIGMA = figure(
    "certainty.day",
    0.05,
    "",
    Basis.COMMON_PRACTICE,
    "one standard deviation of what a day takes, the car known: traffic, whole per cents",
)


@dataclass(frozen=True, kw_only=True)
class Factors:
    """A car’s own factors on the model, learnt from its trips: motion, heating, what the cold withholds; 1 is the model.

    `sigma` is what is not known of each: the spread among cars, or what learning left of it; `day_sigma` how days scatter
    about the model (share of the use), and `days` from how many days all this was learnt. `own` is a factor on all energy: how the
    latest days went against the model; `pack_heat` one on what heating the pack on the way takes, from trips with their kWh.
    """

    base: float = 1.0
    heat: float = 1.0
    cold: float = 1.0
    sigma: tuple[float, float, float] = FACTOR_SIGMA
    day_sigma: float = DAY_SIGMA
    days: int = 0
    own: float = 1.0
    pack_heat: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Car:
    """One electric car as the core sees it; `fast_points` are levels (0 to 1) and kW of its fast charging (none: the usual ones)."""

    name: Annotated[str, Field(longest=30)]
    pack: Pack
    body: Body
    cabin: Cabin = Cabin()
    charger: OnboardCharger = OnboardCharger()
    drivetrain: Drivetrain = Drivetrain()
    tyres: Tyres = Tyres()
    factors: Factors = Factors()
    fast_points: tuple[tuple[float, float], ...] = ()

    def checked(self) -> "Car":
        """The same car. Raises: OutOfRange, with the field, for numbers no road car has."""
        values = self.values()
        for column, span in SPANS.items():
            if values[column] is not None:
                require(values[column], span.low, span.high, span.what, span.unit, column)
        return self

    def values(self) -> dict[str, Any]:
        """All kept fields as plain values, by column."""
        return plain_values(self)

    def with_values(self, values: Mapping[str, Any]) -> "Car":
        """The car with kept fields changed, from plain values by column."""
        return with_values(self, values)


SPANS = {column: each.field for column, each in declared(Car).items() if each.field.quantity}
"""The range of every number of a car that is kept, by column."""


_VAN = Drivetrain(auxiliary_kw=0.35)
PRESETS: dict[str, Car] = {
    "small_hatch": Car(
        name="small_hatch",
        pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=38, heater_kw=3, preheats=Preheats.UNKNOWN),
        body=Body(1500, 0.66),
        cabin=Cabin(4.5),
        charger=OnboardCharger(32, 1, 7.4),
        tyres=Tyres(240, 0.0095),
    ),
    "compact_hatch": Car(
        name="compact_hatch",
        pack=Pack(
            chemistry=Chemistry.NMC, usable_kwh_new=58, heater_kw=5.5, preheats=Preheats.YES, drive_heat_to_c=DRIVE_HEAT_TO_C
        ),
        body=Body(1850, 0.63),
        cabin=Cabin(5.5, True),
        tyres=Tyres(250, 0.0095),
    ),
    "family_saloon": Car(
        name="family_saloon",
        pack=Pack(
            chemistry=Chemistry.NMC, usable_kwh_new=60, heater_kw=7, preheats=Preheats.YES, drive_heat_to_c=DRIVE_HEAT_TO_C
        ),
        body=Body(1850, 0.53),
        cabin=Cabin(6.0, True),
        charger=OnboardCharger(48, 1, 11.5),
        tyres=Tyres(290, 0.0090),
    ),
    "tall_family": Car(
        name="tall_family",
        pack=Pack(
            chemistry=Chemistry.NMC, usable_kwh_new=77, heater_kw=6, preheats=Preheats.YES, drive_heat_to_c=DRIVE_HEAT_TO_C
        ),
        body=Body(2250, 0.74),
        cabin=Cabin(6.0, True),
        tyres=Tyres(270, 0.0100),
    ),
    "small_van": Car(
        name="small_van",
        pack=Pack(
            chemistry=Chemistry.LFP, usable_kwh_new=75, heater_kw=6, preheats=Preheats.YES, drive_heat_to_c=DRIVE_HEAT_TO_C
        ),
        body=Body(2100, 0.95),
        cabin=Cabin(5.0, False),
        charger=OnboardCharger(32, 1, 7.4),
        drivetrain=_VAN,
        tyres=Tyres(300, 0.0100),
    ),
    "large_van": Car(
        name="large_van",
        pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=68, heater_kw=5, preheats=Preheats.UNKNOWN),
        body=Body(2900, 1.75),
        cabin=Cabin(6.0, False),
        charger=OnboardCharger(48, 1, 11.5, overhead_kw=LARGE_VAN_OVERHEAD_KW),
        drivetrain=_VAN,
        tyres=Tyres(420, 0.0105),
    ),
    "pick_up": Car(
        name="pick_up",
        pack=Pack(
            chemistry=Chemistry.NMC, usable_kwh_new=125, heater_kw=7, preheats=Preheats.YES, drive_heat_to_c=DRIVE_HEAT_TO_C
        ),
        body=Body(3150, 1.25),
        cabin=Cabin(7.0, True),
        charger=OnboardCharger(48, 1, 11.5),
        drivetrain=_VAN,
        tyres=Tyres(330, 0.0110),
    ),
}
"""Generic presets by class: made-up, typical numbers, by key. Basis: common practice, to be replaced by own numbers."""


SMALL_CHARGER_KW = 8.0
AS_SOLD = {1: (48.0, 11.5), 3: (32.0, 11.0)}
"""A (per phase) and kW at most of a larger onboard charger as a class is sold where houses have one phase, or three. Basis: common
practice; with three, one phase alone gives its 32 A as well.
"""


def preset(key: str, name: str = "", phases: int | None = None) -> Car:
    """The generic car of a class under the owner's name for it, else the class's key.

    `phases` (1 or 3) are those of houses where it was bought; None: as `PRESETS` has it. Small chargers (up to 7.4 kW) are the same
    everywhere. Raises: KeyError for an unknown class.
    """
    car = replace(PRESETS[key], name=name or key)
    if phases is None or car.charger.ac_limit_kw < SMALL_CHARGER_KW:
        return car
    amps, kw = AS_SOLD[phases]
    most = min(kw, car.charger.ac_limit_kw)
    return replace(car, charger=replace(car.charger, ac_limit_a=amps, phases=phases, ac_limit_kw=most))
