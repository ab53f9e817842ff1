"""Sentences of the sayings about driving, warmth and what the car carries."""

from collections.abc import Mapping

from ....core.sayings.said import Said, Verdict
from ...words.warm import WARM_UPS
from .written import Says, Sentence


def _left_on(said: Said, n: Says) -> str:
    return (
        f"It takes {n('town_wh', 'wh')} in town and {n('motorway_wh', 'wh')} on the motorway, {n('kwh', 'energy')} in a "
        f"year of your roads."
    )


def _small(said: Said, n: Says) -> str:
    return f"{n('km', 'distance')} of tomorrow’s range, {n('kwh', 'energy')} in a year. Use what you need."


def _damp(said: Said, n: Says) -> str:
    return f"Damp air is a little lighter than dry: {n('kwh', 'energy')} in a year."


def _pack_heat(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "This car heats no pack on the way, or does not let its driver switch that off, as far as the Garage knows."
    return _saving(said, n)


def _later(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Tomorrow it is no warmer two hours later."
    return f"Tomorrow’s two hours later give {n('km', 'distance')}; if every day grew as much warmer, {n('kwh', 'energy')} in a year."


def _slower(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Your usual day has no motorway: there is nothing to slow down."
    return (
        f"{n.ten} less give {n('km', 'distance')} tomorrow for {n('minutes', 'minutes')} more on the road; over a year "
        f"{n('kwh', 'energy')}."
    )


def _heat(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Without motorway speed, or without a heater that is on, there is nothing to choose between."
    if said.turn is None or said.turn.at is None:
        return f"At your speed {n.ten} less give more than the heating takes, in any cold: stay warm, and slow down."
    return (
        f"Colder than {n.at('temperature')} the heating takes more than {n.ten} less on the motorway would give; warmer, the foot gives "
        "more. Warm the cabin on the cable, and use the seats, before you freeze."
    )


def _tyres(said: Said, n: Says) -> str:
    physics = f"From 15 to −10 degrees a tyre at {n('placard_kpa', 'pressure')} loses {n('lost_kpa', 'pressure')}".replace(
        "15 to −10 degrees", f"{n.units.text(15, 'temperature', 0)} to {n.units.text(-10, 'temperature', 0)}"
    )
    if said.verdict is Verdict.NOBODY_KNOWS:
        return f"{physics}. Yours were never read: a look at one wheel says what it takes."
    return f"{physics}. Yours have {n('gauge_kpa', 'pressure')} in tomorrow’s air; pumping them gives {n('km', 'distance')}."


def _snow(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "No frosty days in your year, no snow on the car."
    return (
        f"Snow left on takes {n('town_wh', 'wh')} in town, {n('motorway_wh', 'wh')} on the motorway; on about "
        f"{n('days', 'count')} mornings "
        "a year, if it lies on every third frosty one. Sight and the law come before energy."
    )


def _saving(said: Said, n: Says) -> str:
    if "kwh" not in n or said.verdict is Verdict.NOT_HERE:
        return "It changes nothing on your days."
    return f"{n('km', 'distance')} tomorrow, {n('kwh', 'energy')} in a year of your days."


def _gentle(said: Said, n: Says) -> str:
    return (
        "Both are right: the button makes the pedal softer, and what it saves is what the foot then does. Steady on the motorway there is "
        "nothing to save by it."
    )


def _braking(said: Said, n: Says) -> str:
    what = (
        f"Of the {n('put_in_wh', 'wh')} that stops in town take, {n('share', 'share')} come back, strong or weak, as long "
        f"as the motor brakes"
    )
    if said.numbers["lost"] > 0:
        return f"{what}. What your friction brakes keep costs {n('lost', 'money')} a year."
    return f"{what}. Rolling on early keeps the rest, too."


def _windows(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return f"Your year has no driven day above {n.units.text(24, 'temperature', 0)}: neither matters."
    which = {"": "In town the windows take less, on the motorway the cooling", "cooling": "The cooling takes less, even in town"}
    less = which.get(said.best, "Open windows take less, even on the motorway, if you bear the noise")
    return f"{less}. {n('days', 'count')} driven days a year are hot enough to ask."


def _preheat_from(said: Said, n: Says) -> str:
    if "from_km" not in n:
        return f"Tomorrow, at {n('air_c', 'temperature')}, a warm pack pays for itself on no distance, comfort counted."
    far = said.numbers["km"] >= said.numbers["from_km"]
    return (
        f"Tomorrow, at {n('air_c', 'temperature')}, a warm pack pays from {n('from_km', 'distance')} one way; yours is "
        f"{n('km', 'distance')}: "
        f"{'warm it' if far else 'leave the pack cold'}."
    )


def _seats(said: Said, n: Says) -> str:
    if "to_km" not in n:
        return f"Tomorrow, at {n('air_c', 'temperature')}, seats alone are the best choice on no distance."
    return (
        f"Tomorrow, at {n('air_c', 'temperature')}, seats alone do up to {n('to_km', 'distance')} one way; yours is "
        f"{n('km', 'distance')}."
    )


def _always(said: Said, n: Says) -> str:
    best = WARM_UPS.get(said.best, said.best)
    if said.verdict is Verdict.NOT_HERE and said.numbers["days"] < 1:
        return "Your year has no frosty days."
    return (
        f"Tomorrow {best} is worth the most; cabin and pack would cost {n('more', 'money')} more, comfort, level and wear counted. "
        f"Your year has {n('days', 'count')} frosty days."
    )


def _halves(said: Said, n: Says) -> str:
    now = f"Tomorrow leaves {n('tomorrow', 'share')} of the mild day’s range. " if "tomorrow" in n else ""
    if said.turn is None or said.turn.at is None:
        return f"{now}At {n('coldest_c', 'temperature')} {n('least', 'share')} are left: never half gone on your day."
    return f"{now}Half is gone at {n.at('temperature')}, with wind, road and tyres as tomorrow’s."


def _dashboard(said: Said, n: Says) -> str:
    return (
        f"By the ratings it shows {n('label_km', 'distance')} or {n('procedure_km', 'distance')} for tomorrow’s level; as you drive "
        f"tomorrow it goes {n('range_km', 'distance')}."
    )


def _winter_tyres(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Your place has no weeks that cold."
    return (
        f"{n('days', 'count')} driven days of your year are colder. They are for grip; they roll {n('more', 'share')} "
        f"harder, which is the price."
    )


DRIVING: Mapping[str, tuple[str, Sentence]] = {
    "slower": ("Slow down before you turn anything off", _slower),
    "heat_or_speed": ("Heating off, or drive slower?", _heat),
    "tyres_in_cold": ("Pump the tyres when it gets cold", _tyres),
    "roof_box": ("An empty roof box eats range", _left_on),
    "wheel_covers": ("Leave the covers on the wheels", _left_on),
    "brush_snow": ("Brush the whole car, not only the glass", _snow),
    "warm_seats": ("Warm the seat, not the air", _saving),
    "gentle_mode": ("The gentle mode saves, or is it only the foot?", _gentle),
    "strong_braking": ("Braking strong, or weak and roll?", _braking),
    "phone": ("Charging the phone costs range", _small),
    "lights_and_wipers": ("Lights and wipers cost range", _small),
    "damp_air": ("Damp air costs range", _damp),
    "windows_or_cooling": ("Windows open, or the cooling on?", _windows),
    "preheat_from": ("Warm the pack only for a long way", _preheat_from),
    "seats_for_short": ("For the short errand warm seats will do", _seats),
    "always_preheat": ("Always warm up before you leave, or the cabin alone, or not at all?", _always),
    "pack_heat_off": ("Switch the pack heating off for short ways", _pack_heat),
    "leave_later": ("Leave when the sun is up", _later),
    "empty_boot": ("Empty the boot", lambda said, n: f"{n('load_kg', 'mass')} carried all year take {n('kwh', 'energy')}."),
    "frost_halves": ("Frost halves the range", _halves),
    "dashboard": ("Never trust the dashboard’s guess", _dashboard),
    "winter_tyres": ("Winter tyres for the cold days, not for the snow", _winter_tyres),
}
"""Title and sentence of each, by the core’s key."""
