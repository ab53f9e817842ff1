"""Words of the start checks: what to look at when the cable goes in, and what to do about what is wrong."""

from zoneinfo import ZoneInfo

from ....core.charge.start_check import Current, Trouble
from ....services.tonight.started import Started
from ...units import Units
from ...words.hours import hour

LOOK = (
    "Parked, and the car switched off.",
    "The flap is open, the port dry, without ice or snow.",
    "The plug goes home until it clicks.",
    "The unit’s self-test is over; it shows power and ground, and no fault.",
    "The car says that it charges, or that it waits for its time.",
    "Ten minutes later the plug is no more than warm.",
)
TROUBLES: dict[Trouble, tuple[str, str]] = {
    Trouble.PORT: ("The port is wet or icy", "Dry it, or let it thaw, before the plug goes in; never pour hot water, never prise."),
    Trouble.CLICK: ("It does not click", "Take it out, look for ice or dirt, push straight; only a plug that is home may carry current."),
    Trouble.POWER: ("No power, or no ground", "Breaker and switch first; without ground nothing may charge: an electrician’s work."),
    Trouble.FAULT: ("A fault light stays on", "Unplug it from the wall, wait a minute, try once more; if it stays, its manual decides."),
    Trouble.IDLE: ("The car does not charge when it should", "Its own timer or limit, or a full pack: look in the car, then plug in anew."),
    Trouble.HOT: ("The plug is hot", "Stop now and leave it unplugged: have the socket and the plug checked before the next charge."),
}  # fmt: skip


def started_words(started: Started, zone: ZoneInfo, units: Units) -> list[str]:
    """What the noted start means for the night; nothing where nobody noted one."""
    if started.noted is None:
        return []
    check, planned = started.noted.check, units.text(started.planned.amps, "current")
    at = hour(started.noted.at, zone, units)
    lines = [f"{TROUBLES[each][0]}, noted at {at}. {TROUBLES[each][1]}" for each in check.troubles]
    seen = units.text(check.amps, "current") if check.amps is not None else ""
    match started.current:
        case Current.HALF:
            lines.append(
                f"The car shows {seen}, and {planned} were planned: that is one phase, or a cable set low. Planned anew with it."
            )
        case Current.LESS:
            lines.append(f"The car shows {seen}, and {planned} were planned. Planned anew with it.")
        case Current.NONE:
            lines.append(f"The car shows {seen}: under 6 A no car charges. Look at the cable’s setting.")
        case Current.OVER:
            most = units.text(started.circuit_a, "current")
            lines.append(
                f"The car shows {seen}, more than the {most} that this circuit may carry for hours: stop, and ask an electrician."
            )
    if started.blocked:
        lines.append("Until that is put right and noted below, this counts as a night without charging.")
    elif not lines:
        lines.append(f"The charge began as planned, noted at {at}.")
    return lines
