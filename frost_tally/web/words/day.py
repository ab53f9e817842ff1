"""Sentences of the day: the verdict, the levers, what was learnt, the dashboard's kilometres."""

from ...core.advice.remedies import Remedy
from ...core.battery.cold import LESS_POWER, LITTLE_POWER, RESERVE_LIGHT, power_share
from ...core.drive.tyre_log import TyreAlarm
from ...services.day.room import Day
from ..units import Units
from .sentence import Part, Verdict, band_words, percent

WHEELS = {"FL": "front left", "FR": "front right", "RL": "rear left", "RR": "rear right"}
REMEDIES = {
    "slower_5": "{v5} slower on the motorway",
    "slower_10": "{v10} slower on the motorway",
    "preheat": "warm cabin and pack on the cable",
    "tyres": "tyres to the placard, cold",
    "covers": "wheel covers on",
    "box": "roof box off",
    "carrier": "carrier off",
    "snow": "brush the snow off",
    "windows": "close the windows",
    "cooler": "{cooler} less and seats on",
    "gentle": "drive gently in town",
    "motor_brakes": "brake with the motor alone",
    "pack_cold": "pack heating off for the drive",
    "later": "leave two hours later",
    "limit": "charge 10 % more",
}


def verdict(day: Day, units: Units) -> Verdict:
    """Whether the day fits, and with how much."""
    distance = units.text(day.trip.distance_km, "distance")
    home = [Part(". You come home with "), Part(percent(day.arrival.likely), "strong"), Part(f", {band_words(day.arrival)}.")]
    if day.arrival.likely <= 0:
        lead = [
            Part(f"{distance} are "),
            Part("too far", "strong"),
            Part(f" from {percent(day.start.soc)}: {percent(-day.arrival.likely)} are missing."),
        ]
    else:
        lead = [Part(f"{distance}: "), Part("enough" if day.enough else "not surely enough", "strong"), *home]
    return Verdict(tuple(lead), (Part(_then(day, units)),), tuple(_notes(day, units)))


def _notes(day: Day, units: Units) -> list[str]:
    """Alarms, and what a car does near empty where the day comes near it."""
    notes = [alarm_words(each, units) for each in day.night.alarms]
    share, fast = power_share(day.start.pack_c), bool(day.trip.motorway_kmh)
    if share < LITTLE_POWER and fast:
        most = day.night.car.pack.most_kw
        kilowatts = f": about {units.text(share * most, 'power', 0)} of its {units.text(most, 'power', 0)}" if most else ""
        notes.append(
            f"A pack of {units.text(day.start.pack_c, 'temperature', 0)} gives less power at first{kilowatts}. It comes with warmth: "
            "leave room where you join fast traffic."
        )
    if day.arrival.low < RESERVE_LIGHT:
        light, power = percent(RESERVE_LIGHT), percent(LESS_POWER)
        notes.append(
            f"Under about {light} most cars light the reserve lamp, and under {power} they give less power: not for a motorway."
        )
    return notes


def _then(day: Day, units: Units) -> str:
    reserve = percent(day.night.reserve)
    if day.enough:
        return (
            f"On the cautious side {percent(day.arrival.low)} are left, above the {reserve} reserve: no need to change anything."
        )
    low, under = f"On the cautious side {percent(day.arrival.low)} are left", f", under the {reserve} reserve"
    if day.arrival.low < 0:
        low, under = f"On the cautious side {percent(-day.arrival.low)} are missing", ""
    if day.need_soc <= 1.0:
        return f"{low}{under}. Leaving with {percent(day.need_soc + 0.005)} would keep it."
    if day.empty_km is not None:
        low = f"The {reserve} reserve is reached after about {units.text(day.empty_km, 'distance')}"
    ways = "drive slower, shorten the day, or charge on the way"
    return f"{low}, and even a full pack would not do: {ways}."


REMEDY_WHY = {
    "slower_5": "Air drag grows with the square of speed: the last kilometres per hour are the dearest.",
    "slower_10": "Air drag grows with the square of speed; the minutes are on the way, once.",
    "preheat": "Heat from the cable does not come out of the pack, and a warm pack resists less and takes braking energy.",
    "tyres": "A soft tyre flexes more at every turn of the wheel.",
    "covers": "Closed wheels stir the air less.",
    "box": "A box stands in the wind at every speed, empty or full.",
    "carrier": "What stands behind the car tears the air off it.",
    "snow": "Snow is drag and mass, and falls on others: in many places the law wants it off.",
    "windows": "Air that turns round in the cabin is pushed the whole way.",
    "cooler": "Warm seats heat people with 60 W; warm air heats glass and metal with kilowatts.",
    "gentle": "What is not accelerated need not be braked, and braking returns only a part.",
    "motor_brakes": "What the discs turn into heat never comes back.",
    "pack_cold": "On a short trip the pack is hardly warm before it cools again.",
    "later": "Two hours later it is warmer: air is thinner, rubber softer, and the cabin needs less.",
    "limit": "More in the pack before you go; it costs tonight’s price, and stands fuller for some hours.",
}


def change_words(key: str, units: Units) -> str:
    """A remedy in words, in the owner's units."""
    v5, v10 = (units.text(each, "speed") for each in (5, 10))
    return REMEDIES[key].format(v5=v5, v10=v10, cooler=units.text(3, "warmer"))


def help_rows(day: Day, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Remedies once more against the clock, what costs no time first: words, what they give for a minute, and why."""
    rows = sorted(remedy_rows(day, units), key=lambda row: -row[0].gain_km / max(row[0].minutes, 0.5))
    return tuple(
        (
            words,
            f"{units.text(remedy.gain_km / remedy.minutes, 'distance', 1)} a minute"
            if remedy.minutes >= 0.5
            else "no time on the way",
            REMEDY_WHY[remedy.key],
        )
        for remedy, words, _ in rows
    )


def remedy_rows(day: Day, units: Units) -> tuple[tuple[Remedy, str, str], ...]:
    """Remedies with their words and what they cost."""
    found = []
    for remedy in day.remedies:
        price = "free"
        if remedy.minutes >= 0.5:
            price = f"{remedy.minutes:.0f} min more"
        elif units.pays(remedy.cost):
            price = units.money(remedy.cost)
        found.append((remedy, change_words(remedy.key, units), f"{units.text(remedy.gain_km, 'distance')}, {price}"))
    return tuple(found)


def rated_words(day: Day, units: Units) -> str:
    """The dashboard's kilometres beside ours."""
    label, other = (units.text(km, "distance") for km in (day.rated.label_km, day.rated.procedure_km))
    ours = units.text(day.tally.expected_km, "distance") if day.tally else "nothing"
    return (
        f"A dashboard would show {label} or {other}, by one rating scheme or the other: rating times level, for a new pack on a mild "
        f"day. Ours is {ours} down to the reserve, for it knows tomorrow’s cold, roads, speed and load."
    )


def tyre_words(day: Day, units: Units) -> str:
    """What the tyres will have, and what to set here and now."""
    found, placard = day.tyres, day.night.car.tyres.placard_kpa
    read, air = units.text(day.night.tyre_read_c, "temperature", 0), units.text(day.inputs.out_c, "temperature", 0)
    had, will = units.text(day.inputs.tyre_kpa, "pressure"), units.text(found.tomorrow_kpa, "pressure")
    said = f"Read {had} at {read}; at {air} that is {will}, against {units.text(placard, 'pressure')} on the placard."
    if abs(found.tomorrow_kpa - placard) < 4:
        return f"{said} Nothing to do."
    here = f"Here, at {units.text(day.here_c, 'temperature', 0)}, set {units.text(found.set_now_kpa, 'pressure')} cold"
    if found.add_kpa > 0:
        lost = next((step.lost_km for step in (day.tally.steps if day.tally else ()) if step.cause.key == "pressure"), 0.0)
        harder = f"the tyres roll {units.plain(100 * found.rolling_more, 1)} % harder and take {units.text(lost, 'distance', 1)} of range"
        return f"{said} {here}: add {units.text(found.add_kpa, 'pressure')}. Left as it is, {harder}."
    return f"{said} It is above: do not bleed a warm tyre. {here}."


def alarm_words(alarm: TyreAlarm, units: Units) -> str:
    """What a tyre has against the others and the placard, and what to do at once."""
    beside = [f"{units.text(alarm.placard_kpa, 'pressure')} are on the placard"]
    if alarm.others_kpa is not None:
        beside.insert(0, f"the others have {units.text(alarm.others_kpa, 'pressure')}")
    which = f"The {WHEELS[alarm.wheel]} tyre has" if alarm.wheel else "The softest tyre has"
    return (
        f"{which} {units.text(alarm.kpa, 'pressure')} where {' and '.join(beside)} (as if cold at {units.text(20, 'temperature', 0)}). "
        "Do not drive far: fill it, then look for a nail, a bad valve or a cut, and read it again tomorrow."
    )


def learnt_words(day: Day, units: Units) -> str:
    """What the car's own log taught."""
    learnt = day.night.owned.learnt
    if learnt is None:
        return f"Nothing learnt yet: the model’s own numbers are used. {day.noted} days are noted; eight are enough to begin."
    parts = [
        f"{words} × {units.plain(value, 2)}"
        for words, value in (("motion", learnt.base), ("heating", learnt.heat), ("what the cold withholds", learnt.cold))
    ]
    if learnt.pack_heat_days:
        parts.append(
            f"pack heating on the way × {units.plain(learnt.pack_heat, 2)} (from {learnt.pack_heat_days} trips with their kWh)"
        )
    errors = f"{units.plain(100 * learnt.before, 1)} % before and {units.plain(100 * learnt.after, 1)} % after (median)"
    error = f"On days held back from the fit the level was off by {errors}."
    return f"Learnt from {learnt.days} days: {', '.join(parts)}. {error}"
