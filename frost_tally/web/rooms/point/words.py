"""Words of a charge point: how it stands, and what can be done to a simulated one."""

from zoneinfo import ZoneInfo

from ....core.live.heard import Socket
from ....services.tonight.point import PointNow
from ...units import Units
from ...words.hours import hour
from ...words.sentence import Part, percent

ACTS = {
    "plug": "Plug {car} in", "unplug": "Pull the cable", "cut": "Cut the power for an hour", "sleep": "Let the car fall asleep",
    "weak": "Hold it to 8 A", "silence": "Silence the point for 40 minutes", "mend": "Mend it all",
}  # fmt: skip
"""What can be done to the demo's simulated point."""


def stands(point: PointNow, zone: ZoneInfo, units: Units) -> list[Part]:
    """How it stands, in a sentence."""
    heard, name = point.heard, f"{point.outlet.name}: "
    at = hour(heard.at, zone, units)
    if not point.online:
        return [Part(name), Part("not heard", "strong"), Part(f" since {at}. What was left in it goes on.")]
    if heard.socket is Socket.FAULT:
        what = f" ({heard.fault})" if heard.fault else ""
        lights = f" Its lights, as you noted: {point.outlet.lights}" if point.outlet.lights else ""
        return [Part(name), Part("a fault", "strong"), Part(f"{what}. Unplug it from the wall; its manual says more.{lights}")]
    if heard.socket is Socket.CLOSED:
        return [Part(name), Part("out of service", "strong"), Part(", as it says itself.")]
    if not heard.plugged:
        return [Part(name), Part("no cable is in", "strong"), Part(f"; heard at {at}.")]
    if not point.own:
        return [Part(name), Part(point.car or "another car", "strong"), Part(" is on its cable.")]
    level = f"; the car tells {percent(heard.soc)}" if heard.soc is not None else ""
    so_far = f"{units.text(point.wall_kwh, 'energy')} so far{level}; heard at {at}."
    if heard.socket is Socket.CHARGES:
        flows = f", {units.text(heard.amps, 'current')}" if heard.amps > 0 else ""
        flows += " as planned" if flows and point.as_planned else ""
        return [Part(name), Part(f"it draws {units.text(heard.kw, 'power')}{flows}", "strong"), Part(f", {so_far}")]
    waits = "it is offered power and draws none" if heard.socket is Socket.OFFERS else "the cable is in, and it waits"
    return [Part(name), Part(waits, "strong"), Part(f"; {so_far}")]
