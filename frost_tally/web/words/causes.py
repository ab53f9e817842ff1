"""Names of the causes of the tally, and why each takes what it takes: a line for each key of the core's registry."""

from ...core.drive.causes.air import MILD_MOTORWAY_KMH
from ...core.drive.tally import CauseAtWork
from ..units import Units

NAMES: dict[str, tuple[str, str]] = {
    "cold_air": ("cold air", "Cold air is denser, so pushing through it costs more at every speed."),
    "cold_tyres": (
        "cold tyres",
        "Cold rubber flexes harder: 8 % more rolling resistance for {ten} less, from {t25} down to {t_10}.",
    ),
    "pressure": ("tyre pressure", "Air shrinks in the cold; a soft tyre flexes more."),
    "surface": ("wet road", "Water and slush have to be pushed aside."),
    "speed": ("speed", "Air drag grows with the square of speed; the mild day drives its motorway at {v90}."),
    "load": ("load", "People and luggage are mass to accelerate and to roll."),
    "extras": ("drag extras", "Boxes, carriers and open wheels stand in the air."),
    "wind": ("wind", "Wind costs more on the way out than it gives back on the way home."),
    "hills": ("hills", "What a climb costs comes back downhill only in part."),
    "own": ("your own days", "Your latest noted days took so much more, or less, than the model; what it is, learning can tell."),
    "style": ("driving style", "Brisk starts cost more than braking returns."),
    "friction": ("friction brakes", "What the discs turn into heat never comes back to the pack."),
    "age": ("age of pack", "The pack holds less than when it was new, by the health you entered."),
    "cold_pack": ("cold pack", "A cold pack holds some energy back and resists more. It comes back with warmth."),
    "regen_limit": ("lost regen", "A cold or full pack refuses braking energy, and the brakes turn it into heat."),
    "climate_on": ("cabin heat", "Warming the cabin and holding it against the cold."),
    "pack_heat": ("pack heat", "The car warms its pack while driving when it is below its threshold."),
    "standby": ("standing", "A parked car stays a little awake."),
}
TURNED: dict[str, tuple[str, str]] = {
    "cold_air": ("thin air", "Warm air is thinner, so it gives way more easily at every speed."),
    "cold_tyres": ("warm tyres", "Warm rubber flexes more easily: 8 % less rolling resistance for {ten} more."),
    "climate_on": ("cooling", "Keeping the cabin cool against sun and warm air."),
}


def cause_words(cause: CauseAtWork, units: Units) -> str:
    """A cause with its number in the owner's units: "22 kPa low", "speed 110"."""
    label, _ = _named(cause)
    if cause.amount is None:
        return label
    if cause.key == "pressure":
        return f"{units.text(abs(cause.amount), 'pressure')} {'low' if cause.amount < 0 else 'high'}"
    return f"{label} {units.text(cause.amount, cause.key, unit=False)}"


def cause_why(cause: CauseAtWork, units: Units) -> str:
    """Why it takes what it takes."""
    t25, t_10 = (units.text(each, "temperature", 0) for each in (25, -10))
    return _named(cause)[1].format(ten=units.text(10, "warmer"), t25=t25, t_10=t_10, v90=units.text(MILD_MOTORWAY_KMH, "speed"))


def _named(cause: CauseAtWork) -> tuple[str, str]:
    return (TURNED if cause.turned else NAMES)[cause.key]
