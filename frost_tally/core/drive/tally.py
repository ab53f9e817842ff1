"""The fair tally: from a mild day's range to tomorrow's, one step per cause.

Each step is the Shapley value of its cause: its effect averaged over every order in which the causes can be added. The
steps add up exactly, and no order is favoured. Source: L. S. Shapley, "A value for n-person games", 1953.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ..basis import Basis, figure
from ..car import Car
from ..errors import OutOfRange
from ..units import Array
from .air import density, pressure_at
from .day import Lanes, Outcome, Road, Start, Trip
from .road import SURFACE_FACTOR, Conditions, Surface, road_load
from .shapley import sampling_error, shapley, subsets
from .trip import lanes, run
from .tyres import cold_factor, pressure_factor

MILD_C = figure("tally.mild_temperature", 20.0, "°C", Basis.COMMON_PRACTICE, "a mild, dry, calm day, climate off")
MILD_MOTORWAY_KMH = figure("tally.mild_motorway", 90.0, "km/h", Basis.COMMON_PRACTICE, "motorway speed of the mild day")


@dataclass(frozen=True)
class Cause:
    """One cause: key, plain name, how it sounds ("cold", "heat", "road"), why, and the figures it rests on.

    `amount` is tomorrow's number where the name needs one: kPa against the placard, or the motorway's km/h.
    """

    key: str
    label: str
    kind: str
    why: str
    figures: tuple[str, ...] = ()
    amount: float | None = None


@dataclass(frozen=True)
class TallyStep:
    """What a cause takes: km of range (positive: lost), share of the mild range, kWh and money on this day's distance."""

    cause: Cause
    lost_km: float
    share: float
    extra_kwh: float
    extra_cost: float


@dataclass(frozen=True)
class Tally:
    """Start and end of the stair in km, its steps, the level the range is counted from and to, the day's energy (kWh).

    `error_km` is the largest standard error of a step where the causes are sampled, 0 where the tally is exact.
    """

    mild_km: float
    expected_km: float
    steps: tuple[TallyStep, ...]
    from_soc: float
    to_soc: float
    day_kwh: float
    error_km: float = 0.0


Change = Callable[[Lanes, Array], Lanes]


@dataclass(frozen=True)
class _Active:
    """A cause at work, and what leaving it out (array 1 = counts, 0 = left out) does to the lanes."""

    cause: Cause
    apply: Change


def fair_tally(
    car: Car,
    trip: Trip,
    conditions: Conditions,
    start: Start,
    *,
    reserve_soc: float = 0.10,
    standby_soc: float = 0.0,
    price_per_kwh: float = 0.0,
) -> Tally:
    """The tally of a day from the level at departure down to the reserve.

    Args: `standby_soc` is what standing takes from the level before departure (0 to 1), price is per kWh from the pack.
    Exact over all subsets up to 10 causes at work, sampled in antithetic pairs above.
    Raises: OutOfRange when the reserve is not below the level.
    """
    if start.soc <= reserve_soc:
        raise OutOfRange("The level at departure is not above the reserve.", "limit")
    active = [*_road_causes(car, trip, conditions), *_heat_causes(car, conditions, start)]
    if standby_soc > 0 or any(leg.road is Road.PARKED for leg in trip.legs):
        active.append(_Active(CAUSES["standby"], lambda at, on: replace(at, standby=on, soc=at.soc + (1 - on) * standby_soc)))
    masks = subsets(len(active))
    outcome, from_soc = _run_masks(car, trip, conditions, start, active, masks)
    values = np.column_stack([outcome.range_km(from_soc, reserve_soc), outcome.energy_kwh])
    parts = shapley(values, len(active))
    mild, expected = values[0], values[-1]
    steps = tuple(
        TallyStep(each.cause, float(-km), float(-km / mild[0]), float(kwh), float(kwh * price_per_kwh))
        for each, (km, kwh) in zip(active, parts, strict=True)
    )
    error_km = float(sampling_error(values, len(active))[0])
    return Tally(float(mild[0]), float(expected[0]), steps, start.soc + standby_soc, reserve_soc, float(expected[1]), error_km)


def _run_masks(
    car: Car, trip: Trip, conditions: Conditions, start: Start, active: list[_Active], masks: Array
) -> tuple[Outcome, Array]:
    """Run one lane per subset; returns the outcome and each lane's level at departure."""
    mild = replace(conditions, ambient_c=MILD_C, surface=Surface.DRY, tyre_gauge_kpa=None)
    base = road_load(car, mild)
    inputs = replace(
        lanes(car, conditions, start),
        density=np.full(len(masks), base.density),
        rolling=np.full(len(masks), base.rolling),
        soc=np.full(len(masks), start.soc),
    )
    for column, each in zip(masks.T, active, strict=True):
        inputs = each.apply(inputs, column)
    absent = {"cold_pack", "regen_limit", "climate_on", "pack_heat"} - {each.cause.key for each in active}
    inputs = replace(inputs, **dict.fromkeys(absent, 0.0))
    return run(car, trip, conditions, inputs), np.asarray(inputs.soc)


def _shown(key: str, label: str, kind: str, why: str, *figure_keys: str) -> Cause:
    return Cause(key, label, kind, why, figure_keys)


CAUSES = {
    cause.key: cause
    for cause in (
        _shown("age", "age of pack", "road", "The pack holds less than when it was new, by the health you entered."),
        _shown(
            "cold_air",
            "cold air",
            "cold",
            "Cold air is denser, so pushing through it costs more at every speed.",
            "air.gas_constant",
        ),
        _shown(
            "cold_tyres",
            "cold tyres",
            "cold",
            "Cold rubber flexes harder: 0.8 % more rolling resistance per degree below 25 °C, down to −10.",
            "tyres.temperature_slope",
            "tyres.reference_temperature",
            "tyres.flatten_below",
        ),
        _shown(
            "pressure", "tyre pressure", "road", "Air shrinks in the cold; a soft tyre flexes more.", "tyres.pressure_exponent"
        ),
        _shown(
            "cold_pack",
            "cold pack",
            "cold",
            "A cold pack holds some energy back and resists more. It comes back with warmth.",
            "pack.usable_nmc.at_-10",
            "pack.resistance.at_-10",
        ),
        _shown(
            "regen_limit",
            "lost regen",
            "cold",
            "A cold or full pack refuses braking energy, and the brakes turn it into heat.",
            "pack.regen_none_below",
            "pack.regen_full_from",
            "pack.regen_fades_from_level",
        ),
        _shown(
            "climate_on",
            "cabin heat",
            "heat",
            "Warming the cabin and holding it against the cold.",
            "cabin.conductance_moving",
            "cabin.capacity",
        ),
        _shown(
            "pack_heat",
            "pack heat",
            "heat",
            "The car warms its pack while driving when it is below its threshold.",
            "pack.conductance_moving",
        ),
        _shown(
            "speed",
            "speed",
            "road",
            "Air drag grows with the square of speed; the mild day drives its motorway at 90 km/h.",
            "tally.mild_motorway",
        ),
        _shown("load", "load", "road", "People and luggage are mass to accelerate and to roll."),
        _shown(
            "extras",
            "drag extras",
            "road",
            "Boxes, carriers and open wheels stand in the air.",
            "extras.roof_box",
            "extras.rear_carrier",
            "extras.covers_off",
            "extras.snow",
        ),
        _shown("surface", "wet road", "road", "Water and slush have to be pushed aside.", "road.wet", "road.slush"),
        _shown("wind", "wind", "road", "Wind costs more on the way out than it gives back on the way home."),
        _shown(
            "hills",
            "hills",
            "road",
            "What a climb costs comes back downhill only in part.",
            "hills.slope_country",
            "hills.most_uphill",
        ),
        _shown("style", "driving style", "road", "Brisk starts cost more than braking returns.", "style.gentle"),
        _shown(
            "own",
            "your own days",
            "road",
            "Your latest noted days took so much more, or less, than the model; what it is, learning can tell.",
            "certainty.noise_days",
        ),
        _shown("standby", "standing", "road", "A parked car stays a little awake.", "parked.idle"),
    )
}
"""All causes by key. A new cause is one line here and one line in the lists of `_road_causes` or `_heat_causes`."""


def _road_causes(car: Car, trip: Trip, at: Conditions) -> list[_Active]:
    """Causes that change the road load and differ from the mild day."""
    mild_air = density(MILD_C, pressure_at(at.altitude_m), at.relative_humidity)
    now = road_load(car, at)
    gauge = car.tyres.placard_kpa if at.tyre_gauge_kpa is None else at.tyre_gauge_kpa
    rolling = {
        "cold_tyres": cold_factor(at.ambient_c) / cold_factor(MILD_C),
        "pressure": pressure_factor(gauge, car.tyres.placard_kpa),
        "surface": SURFACE_FACTOR[at.surface],
    }
    ratio = float(np.asarray(now.density)) / mild_air
    speeds = [leg.speed_kmh for leg in trip.legs if leg.road is Road.MOTORWAY and leg.speed_kmh and leg.distance_km > 0]
    slower = MILD_MOTORWAY_KMH / speeds[0] if speeds else 1.0
    found: list[tuple[str, bool, Change]] = [
        ("cold_air", ratio != 1, lambda lane, on: replace(lane, density=np.asarray(lane.density) * np.where(on, ratio, 1.0)))
    ]
    found += [(key, abs(factor - 1) > 1e-9, _rolling_times(factor)) for key, factor in rolling.items()]
    found += [
        ("speed", abs(slower - 1) > 1e-9, lambda lane, on: replace(lane, motorway=np.where(on, 1.0, slower))),
        ("load", at.load_kg > 0, lambda lane, on: replace(lane, mass_kg=np.asarray(lane.mass_kg) - (1 - on) * at.load_kg)),
        (
            "extras",
            at.drag_factor != 1,
            lambda lane, on: replace(lane, drag_area_m2=lane.drag_area_m2 / np.where(on, 1.0, at.drag_factor)),
        ),
        (
            "wind",
            at.wind_mps > 0 or at.headwind_mps != 0,
            lambda lane, on: replace(lane, wind_mps=lane.wind_mps * on, headwind_mps=lane.headwind_mps * on),
        ),
        ("hills", trip.climb_m > 0, lambda lane, on: replace(lane, climb=on)),
        ("own", abs(car.factors.own - 1) > 1e-9, lambda lane, on: replace(lane, own=np.where(on, car.factors.own, 1.0))),
        ("style", at.style != 1, lambda lane, on: replace(lane, style=np.where(on, at.style, 1.0))),
    ]
    return [
        _Active(_named(_by_weather(key, at), gauge - car.tyres.placard_kpa, max(speeds, default=0.0)), change)
        for key, differs, change in found
        if differs
    ]


def _rolling_times(factor: float) -> Change:
    return lambda lane, on: replace(lane, rolling=lane.rolling * np.where(on, factor, 1.0))


def _switch(name: str) -> Change:
    def apply(lane: Lanes, on: Array) -> Lanes:
        changed: dict[str, Array] = {name: on}
        return replace(lane, **changed)

    return apply


def _heat_causes(car: Car, at: Conditions, start: Start) -> list[_Active]:
    """Causes of age, cold pack and heating that are at work."""
    switches = {
        "cold_pack": min(start.pack_c, at.ambient_c) < 25,
        "regen_limit": min(start.pack_c, at.ambient_c) < 15 or start.soc > 0.9,
        "climate_on": at.cabin_set_c is not None,
        "pack_heat": at.heater > 0
        and car.pack.drive_heat_to_c is not None
        and min(start.pack_c, at.ambient_c) < car.pack.drive_heat_to_c,
    }
    found = [_Active(_by_weather(key, at), _switch(key)) for key, works in switches.items() if works]
    if car.pack.soh < 1:
        found.insert(
            0,
            _Active(
                CAUSES["age"],
                lambda lane, on: replace(lane, capacity_kwh=np.where(on, car.pack.usable_kwh, car.pack.usable_kwh_new)),
            ),
        )
    return found


WARM = {
    "cold_air": ("thin air", "road", "Warm air is thinner, so it gives way more easily at every speed."),
    "cold_tyres": ("warm tyres", "road", "Warm rubber flexes more easily: 0.8 % less rolling resistance per degree."),
    "climate_on": ("cooling", "heat", "Keeping the cabin cool against sun and warm air."),
}
"""How causes are called when it is warmer than the mild day, or for the climate than the setting: label, kind and why."""


def _by_weather(key: str, at: Conditions) -> Cause:
    """The cause under the name of what happens."""
    warm = at.ambient_c > (MILD_C if key != "climate_on" or at.cabin_set_c is None else at.cabin_set_c)
    if not warm or key not in WARM:
        return CAUSES[key]
    label, kind, why = WARM[key]
    figures = ("climate.sun_gain", "climate.open_air", "climate.cooling_to") if key == "climate_on" else CAUSES[key].figures
    return replace(CAUSES[key], label=label, kind=kind, why=why, figures=figures)


def _named(cause: Cause, gauge_off_kpa: float, speed_kmh: float) -> Cause:
    """The cause with tomorrow's number: kPa against the placard, or km/h."""
    amounts = {"pressure": gauge_off_kpa, "speed": speed_kmh}
    return replace(cause, amount=amounts.get(cause.key))
