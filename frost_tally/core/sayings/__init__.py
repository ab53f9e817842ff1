"""The trade’s rules of thumb, worked out for one home: each saying is one file and one line here, a pure function of what the rooms know.

A saying names what it asks for by its arguments (`known`), and has no physics of its own. Why: docs/decisions/0076.
"""

from collections.abc import Callable, Mapping
from inspect import signature

from . import (
    always_preheat,
    app_looks,
    best_tariff,
    beyond_eighty,
    brush_snow,
    calibrate,
    cheap_hours,
    cool_hours,
    cool_pack,
    damp_air,
    dashboard,
    early_or_late,
    eighty,
    empty_boot,
    fast_harms,
    fast_lane,
    fewer_longer,
    fifty,
    frost_halves,
    full_before_leaving,
    garage,
    gentle_mode,
    heat_or_speed,
    leave_later,
    lights_and_wipers,
    low_and_warm,
    pack_heat_off,
    pack_size,
    phone,
    preheat_from,
    roof_box,
    seats_for_short,
    shallow,
    slow_is_kind,
    slower,
    small_battery,
    stay_plugged,
    stored_half,
    strong_braking,
    timer_once,
    twenty_to_eighty,
    tyres_in_cold,
    wall_unit,
    warm_seats,
    washer,
    watching_cameras,
    weekly_full,
    weekly_post,
    wheel_covers,
    windows_or_cooling,
    winter_tyres,
)
from .known import Here
from .said import Said

SAYINGS: Mapping[str, Callable[..., Said]] = {
    "slower": slower.said,
    "heat_or_speed": heat_or_speed.said,
    "tyres_in_cold": tyres_in_cold.said,
    "roof_box": roof_box.said,
    "wheel_covers": wheel_covers.said,
    "brush_snow": brush_snow.said,
    "warm_seats": warm_seats.said,
    "gentle_mode": gentle_mode.said,
    "strong_braking": strong_braking.said,
    "phone": phone.said,
    "lights_and_wipers": lights_and_wipers.said,
    "damp_air": damp_air.said,
    "windows_or_cooling": windows_or_cooling.said,
    "preheat_from": preheat_from.said,
    "seats_for_short": seats_for_short.said,
    "always_preheat": always_preheat.said,
    "pack_heat_off": pack_heat_off.said,
    "leave_later": leave_later.said,
    "empty_boot": empty_boot.said,
    "frost_halves": frost_halves.said,
    "dashboard": dashboard.said,
    "winter_tyres": winter_tyres.said,
    "eighty": eighty.said,
    "fifty": fifty.said,
    "twenty_to_eighty": twenty_to_eighty.said,
    "full_before_leaving": full_before_leaving.said,
    "weekly_full": weekly_full.said,
    "shallow": shallow.said,
    "stored_half": stored_half.said,
    "cool_pack": cool_pack.said,
    "fast_harms": fast_harms.said,
    "calibrate": calibrate.said,
    "pack_size": pack_size.said,
    "garage": garage.said,
    "slow_is_kind": slow_is_kind.said,
    "cheap_hours": cheap_hours.said,
    "best_tariff": best_tariff.said,
    "timer_once": timer_once.said,
    "wall_unit": wall_unit.said,
    "stay_plugged": stay_plugged.said,
    "early_or_late": early_or_late.said,
    "cool_hours": cool_hours.said,
    "weekly_post": weekly_post.said,
    "low_and_warm": low_and_warm.said,
    "fewer_longer": fewer_longer.said,
    "beyond_eighty": beyond_eighty.said,
    "fast_lane": fast_lane.said,
    "watching_cameras": watching_cameras.said,
    "app_looks": app_looks.said,
    "small_battery": small_battery.said,
    "washer": washer.said,
}
"""Each saying by its key. Its words stand in `web/rooms/sayings/words.py` under the same one."""


def needs(key: str) -> tuple[str, ...]:
    """What a saying asks for, by name."""
    return tuple(signature(SAYINGS[key]).parameters)


def told(known: Mapping[str, object]) -> dict[str, Said]:
    """What can be said of what is known, by key; what would change the most in a year first."""
    found = {
        key: say(**{name: known[name] for name in needs(key)}) for key, say in SAYINGS.items() if set(needs(key)) <= set(known)
    }
    here = known.get("here")
    return dict(sorted(found.items(), key=lambda each: -_weight(here, each[1])))


def _weight(here: object, said: Said) -> float:
    return here.weight(said.yearly) + said.at_stake if isinstance(here, Here) else 0.0
