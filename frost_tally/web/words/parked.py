"""Words of standing and of the winter: the stand's verdict, the 12 V battery, washer fluid, the season's items, the bad morning."""

from datetime import timedelta

from ...core.park.twelve_volt import Care
from ...services.parked import ParkedRoom, Saving
from ...services.winter.twelve_volt import TwelveVolt
from ..units import Units
from .battery import band
from .sentence import NBSP, Part, Verdict

SWITCH_WORDS = {
    "cameras": ("Watch cameras", "off"),
    "polling": ("Apps that wake it", "off"),
    "climate": ("Climate", "off"),
    "keep_warm": ("Keeping the pack warm", "off"),
}
IDLE = "Standing itself"
CAUTIONS_AWAY = (
    "Never so that 0 % is possible. A plan is advice: the car’s own limits and manual win.",
    "Snow and ice can hide a cable, a socket and a fault: look at both when you come back.",
)


def away_verdict(room: ParkedRoom, units: Units) -> Verdict:
    """What it comes back with, and what to do about it."""
    likely, low, high = room.stood.end
    days = "a day" if room.inputs.days == 1 else f"{room.inputs.days} days"
    later = room.inputs.leaves_on != room.defaults.leaves_on
    first, last = (
        units.date(each, month="B", year=True)
        for each in (room.inputs.leaves_on, room.inputs.leaves_on + timedelta(days=room.inputs.days))
    )
    span = f" ({first} to {last})"
    stand = f"{days}{span if later else ''}"
    back = Part(f"{100 * likely:.0f}{NBSP}%", "strong")
    if high < 0.005:
        gone = int((room.stood.likely > 0.005).sum())
        lead = [Part(f"{room.owned.name} would be "), Part("empty", "heat"), Part(f" after about {gone} of {stand}")]
    else:
        spread = f" ({band(low, high)})" if high - low > 0.01 else ""
        lead = [Part(f"After {stand} {room.owned.name} comes back to "), back, Part(spread)]
    notes = []
    if room.inputs.plugged:
        lead.append(Part(f": it is held at {units.text(room.inputs.limit, 'percent')} from the wall."))
        wall = units.text(room.stood.wall_kwh, "energy", 0)
        then = f"That draws about {wall}. {_limit_words(room, units)}"
    elif low >= room.need_soc - 1e-9:
        lead.append(Part(": enough."))
        then = _enough(room, units)
    else:
        lead.append(Part(". "))
        lead += _remedy(room, units)
        then = _needs(room, units)
    stands = room.judged.stands_days
    if stands is not None and stands < room.inputs.days:
        notes.append(
            f"The 12 V battery may be half empty after {stands:.0f} days: unless the pack tops it up, charge it before, or disconnect it "
            "as the owner’s manual says."
        )
    return Verdict(tuple(lead), (Part(then),), tuple(notes))


def _remedy(room: ParkedRoom, units: Units) -> list[Part]:
    """What to switch off, and the level to leave with."""
    advice = room.advice
    off = [SWITCH_WORDS[name][0].lower() for name in advice.off]
    switch = f"Switch off {' and '.join(off)}" if off else ""
    level = f"{100 * advice.leave_soc:.0f}{NBSP}%"
    as_is = f", or leave with {100 * advice.leave_as_is:.0f}{NBSP}%" if advice.leave_as_is <= 1.0 and off else ""
    if not advice.enough:
        return [Part(f"{switch + ' and plug' if switch else 'Plug'} it in: not even 100{NBSP}% would do.", "heat")]
    if room.inputs.soc >= advice.leave_soc - 1e-9:
        return [Part(switch, "strong"), Part(f"{as_is}.")]
    if not switch:
        return [Part("Leave with "), Part(level, "strong"), Part(" at least.")]
    return [Part(switch, "strong"), Part(" and leave with "), Part(level, "strong"), Part(" at least.")]


def _needs(room: ParkedRoom, units: Units) -> str:
    """What the return needs."""
    if room.inputs.charger_km <= 0:
        return f"So that it never comes near empty, {units.text(room.need_soc, 'percent')} should be left."
    way = units.text(room.inputs.charger_km, "distance")
    said = (
        f"The next charger is {way} away: that and the reserve need {units.text(room.need_soc, 'percent')} in "
        f"{units.text(room.air[1], 'temperature', 0)}."
    )
    if room.advice.off and room.advice.enough and not room.inputs.plugged:
        said += f" With that off, {100 * room.advice.leave_soc:.0f}{NBSP}% at departure would do."
    return said


def _enough(room: ParkedRoom, units: Units) -> str:
    least = f"{100 * min(1.0, room.advice.leave_as_is):.0f}{NBSP}%"
    high = (
        " Do not leave it fuller than it needs: a full pack ages standing."
        if room.inputs.soc > room.advice.leave_as_is + 0.2
        else ""
    )
    return f"{_needs(room, units)} To leave with {least} would do.{high}"


def _limit_words(room: ParkedRoom, units: Units) -> str:
    if room.inputs.limit <= 0.55:
        return "About half is right for weeks: heat and high levels age a standing pack."
    return "For weeks away about 50 % would be better: high levels age a standing pack."


def saving_words(saving: Saving, units: Units) -> str:
    """What a switch saves."""
    longer = "" if saving.days is None else f", {saving.days:.0f} days more"
    return f"{100 * saving.soc:.0f}{NBSP}%, {units.text(saving.km, 'distance')}{longer}"


def idle_words(room: ParkedRoom, units: Units) -> str:
    """Where the idle drain comes from."""
    a_day, doubt = units.plain(100 * room.idle.per_day, 1), units.plain(164 * room.idle.sigma, 1)
    said = f"Standing itself takes {a_day}{NBSP}% a day (± {doubt})"
    if room.idle.days:
        cold = f", {room.idle.cold_days:.0f} of them in frost" if room.idle.cold_days >= 1 else ""
        return f"{said}, from {room.idle.days:.0f} days between two levels in your log{cold}. {_colder(room, units)}"
    return f"{said}, as is usual: from 20 days of standing in your log on its own counts. {_colder(room, units)}"


def _colder(room: ParkedRoom, units: Units) -> str:
    """What frost adds to the idle drain."""
    if room.idle.cold_per_k < 1e-6:
        return "Frost adds nothing that shows."
    return f"Every {units.text(10, 'warmer')} of frost add {units.plain(1000 * room.idle.cold_per_k, 2)}{NBSP}%."


CARE = {
    Care.FINE: "is fine",
    Care.TEST: "wants a test",
    Care.CHARGE: "wants charging now",
    Care.REPLACE: "should be replaced before the winter",
}
REASONS = {
    "unknown": "nobody knows its age or its voltage",
    "half_empty": "at rest it shows half or less",
    "empty": "it is empty: charge it, then have it tested, however young it is",
    "low": "it is low for a lithium battery, which switches itself off before long",
    "charging": "the last reading was taken while it was being charged: read it again after some hours of rest",
    "charging_or_lithium": "the last reading is none of a lead battery at rest: it was being charged, or it is lithium (say so below)",
    "tired": "at rest it shows less than three quarters",
    "would_freeze": "as empty as it is, it would freeze in the cold ahead",
    "old": "it is as old as such batteries get",
    "ageing": "it has come into the age in which they fail",
    "long_ago": "the last reading is half a year old",
}
CAUTIONS_12V = (
    "12 V batteries give off gas and hold acid: no sparks, right polarity, the owner’s manual. A frozen battery must not be charged.",
    "Orange high-voltage cables are for trained people only.",
    "A jump pack in a boot that needs 12 V to open is no use: keep it in the cabin, and know how the doors open without power.",
)


def battery_verdict(found: TwelveVolt, units: Units) -> tuple[str, str]:
    """What the 12 V battery needs, and why."""
    judged = found.judged
    reasons = "; ".join(REASONS[each] for each in judged.reasons)
    lead = f"{found.owned.name}’s 12 V battery {CARE[judged.care]}{f': {reasons}' if reasons else ''}."
    parts = []
    if judged.soc is not None:
        parts.append(f"About {units.text(judged.soc, 'percent')} charged by the last reading at rest")
    if found.age_years is not None:
        parts.append(f"{units.plain(found.age_years, 1)} years old{' as the car is' if found.entered.fitted_on is None else ''}")
    said = f"{', '.join(parts)}. " if parts else ""
    if judged.stands_days is None:
        stand = "The pack tops it up while the car sleeps, so it may stand."
    else:
        unknown = " (unless the pack tops it up, which nobody has said)" if found.entered.tops_up == "unknown" else ""
        stand = f"It may stand for about {judged.stands_days:.0f} days{unknown}."
    return lead, f"{said}{stand} Look again in {judged.again_days} days, or before a long stand."


DOOR = {
    "yes": "“Open a door now and then” is no plan for this car: its pack tops the battery up by itself.",
    "no": "Opening a door does not charge this battery, it drains it: drive an hour, or charge it at a socket.",
    "unknown": "Whether opening a door helps depends on the car: some wake and top the battery up, others only drain it. The manual knows.",
}


def mix_words(parts: tuple[float, float, float, int], units: Units) -> str:
    """What to do with the tank: let out, concentrate, water (litres), squirts."""
    drain, concentrate, water, squirts = parts
    said = []
    if drain > 0.005:
        said.append(f"let out {units.plain(drain, 1)}{NBSP}L")
    if concentrate > 0.005:
        said.append(f"add {units.plain(concentrate, 1)}{NBSP}L of concentrate")
    if water > 0.005:
        said.append(f"add {units.plain(water, 1)}{NBSP}L of water")
    if not said:
        return "The tank is full, and stands it."
    joined = ", then ".join(said)
    return f"{joined[0].upper()}{joined[1:]}; mix by shaking the car a little, and pull it through with about {squirts} squirts."


WASHER_CAUTIONS = (
    "Washer alcohols are flammable, and methanol is poisonous and restricted in places: follow the label and local rules.",
    "No dish soap, no plain water; never drink from or store in a drinking bottle.",
)
