"""Sentences of what matters where: the foot, the button, small things, and which rating a dashboard shows."""

from collections.abc import Mapping

from ....core.drive.road import FROST_HEAT_KW, TRADES_KMH, heat_for_thriftiest_kw, thriftiest_kmh
from ....services.habits import Effects
from ...units import Units
from ...words.day import change_words
from ...words.sentence import Part, Verdict

SMALL: Mapping[str, str] = {
    "phone": "charging a phone",
    "radio": "radio and screen",
    "lights": "lights",
    "wipers": "wipers",
    "assist": "the computer of assisted driving",
    "rear_window": "the heated rear window, left on",
    "cooling": "air conditioning by itself, in steady sun",
    "window": "front windows a hand open",
    "damp": "damp air instead of dry",
}


NOTHING = 0.015
"""The share of a day under which something does not matter."""


def verdict(made: Effects, units: Units) -> Verdict:
    """What tells most in town, and what on the motorway."""
    town, fast = (max(wh, key=lambda key: wh[key], default="") for wh in (made.town_wh, made.motorway_wh))
    lead = (
        Part("In town: "), Part(change_words(town, units) if town else "nothing"), Part(". On the motorway: "),
        Part(change_words(fast, units) if fast else "nothing"), Part("."),
    )  # fmt: skip
    return Verdict(lead, (Part("These give most there, each by itself, in tomorrow’s weather with a cold car."),))


def foot_words(made: Effects, units: Units) -> tuple[str, ...]:
    """What is the foot and what the button, with this car's numbers."""
    ways, scale = made.habits, 1 / units.of("distance").show(1.0)
    per = f"Wh/{units.of('distance').label}"
    put, back = (f"{value * scale:.0f}" for value in (ways.put_in_wh_per_km, ways.returned_wh_per_km))
    share = 100 * ways.returned_wh_per_km / ways.put_in_wh_per_km if ways.put_in_wh_per_km else 0.0
    gentle, brisk = units.text(ways.gentle_km, "distance", 1), units.text(ways.brisk_km, "distance", 1)
    return (
        f"The foot: a gentle one gives {gentle} on this day, a brisk one takes {brisk}. It counts where you stop and go, not at a steady "
        "speed.",
        "The button: a gentle mode makes the pedal softer, and often the heating weaker. It saves what your foot then does, and what the "
        "cabin then lacks; a calm foot without it saves the same.",
        f"Braking: stops in town take {put} {per}, and {back} come back, {share:.0f} %. One pedal or two, strong or weak: no difference "
        "as long as the motor brakes and not the brake discs. What counts is how much the pack accepts: a cold or full one refuses.",
        f"Rolling: what you need not brake is not lost at all. Lifting the foot early for a red light keeps the other {100 - share:.0f} %.",
    )


def steady_words(made: Effects, units: Units) -> str:
    """At which steady speed a kilometre takes least, without heat and with it, and what the trade's number would want."""
    car, at = made.day.night.car, made.day.conditions
    cool, warm = (units.text(thriftiest_kmh(car, at, each), "speed", 0) for each in (0.0, FROST_HEAT_KW))
    wants = units.text(heat_for_thriftiest_kw(car, at, TRADES_KMH), "power", 1)
    return (
        f"At a steady speed on the flat a {units.of('distance').label} takes least at {cool} without heat, at {warm} with "
        f"{units.text(FROST_HEAT_KW, 'power', 1)} of it: heat counts by the hour. The trade’s “about {units.text(TRADES_KMH, 'speed', 0)}” "
        f"would want {wants}. Slower is only better where it is legal and safe."
    )


def small_rows(made: Effects, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Small things: words, power, and range on this day."""
    return tuple(
        (SMALL[each.key], units.text(each.watts, "watts") if each.watts else "drag", units.text(each.km, "distance", 1))
        for each in made.habits.small
    )


def nothing_words(made: Effects, units: Units) -> str:
    """What does not matter, in a line with its numbers."""
    little = [each for each in made.habits.small if abs(each.km) < NOTHING * made.day.trip.distance_km]
    names = ", ".join(SMALL[each.key] for each in little)
    together = units.text(sum(abs(each.km) for each in little), "distance", 1)
    return f"{names[:1].upper()}{names[1:]}: all together {together}. Use them." if little else ""


def rating_words(made: Effects, units: Units) -> tuple[str, ...]:
    """Which rating scheme is which, and how to tell which one a car shows."""
    label, other = (units.text(km, "distance") for km in (made.full.label_km, made.full.procedure_km))
    return (
        "Two schemes rate cars. The North American label drives town and highway schedules on a roller, then takes 30 % off: about "
        f"{label} for this car when new. The world-wide procedure (UN GTR 15), of Europe and most of Asia, takes off nothing: {other}, "
        "10 to 20 % more. Neither has frost, heating, wind or your speed in it.",
        f"To tell which one your car shows: charge to 100 % and read its distance. Near {label}: the label; near {other}: the procedure. "
        "One that changes with your last drives is a guess from these, not a rating; reset it, or set it to the rated one, and read again.",
        "An older procedure (NEDC) promises a third more than the label; cars from before about 2018 may still show it.",
    )
