"""Facts of a night's plan: each with its value, where it comes from, and the figure that it rests on most."""

from collections.abc import Iterator
from datetime import timedelta
from typing import NamedTuple

from ....core.car import CHARGER_EFFICIENCY
from ....core.drive.certainty import LEAST_ERRORS
from ....services.tonight.room import Tonight
from ...units import Units
from ...words.hours import hour, hour_up
from ...words.reasons import LIMITS
from ...words.sentence import NBSP

SAME_END = timedelta(minutes=2)
"""What begins and ends as the plan does is the plan."""
OWN = ", measured by your own charges on this outlet,"


class Fact(NamedTuple):
    """A fact of the plan: its name, value, where it comes from, and the figure that it rests on most."""

    name: str
    value: str
    origin: str
    figure: str


def facts(night: Tonight, units: Units) -> tuple[Fact, ...]:
    """Facts of the plan, from the wall into the pack."""
    return (*_charged(night, units), *_drawn(night, units))


def day_facts(night: Tonight, units: Units) -> tuple[Fact, ...]:
    """Facts of the morning and of the day."""
    return (*_morning(night, units), *_of_the_day(night, units))


def _charged(night: Tonight, units: Units) -> Iterator[Fact]:
    """What the charging takes and leaves."""
    plan, rate = night.plan, night.rate
    own = OWN if rate.efficiency != CHARGER_EFFICIENCY else ""
    yield Fact(
        "At the wall",
        units.text(rate.wall_kw, "power"),
        f"{rate.amps:.0f} A, held by the {LIMITS[rate.limited_by]}",
        "supply.minimum_current",
    )
    wall = units.text(plan.session.wall_kwh + plan.warm.wall_kwh, "energy")
    yield Fact("From the wall", wall, "charging and warm-up, in five-minute steps", "session.taper_from")
    lost = f"{100 * rate.efficiency:.0f} % conversion{own} and {units.plain(rate.overhead_kw, 2)} kW overhead"
    yield Fact("Lost on the way", units.text(plan.session.lost_kwh, "energy"), lost, "supply.efficiency")
    price = "its bill over what reached the pack; tally, day and warm-up count with it"
    yield Fact("A kWh in the pack", units.money(plan.price_in_pack), price, "supply.efficiency")
    if plan.reaches_limit and plan.blocks:
        latest = hour(plan.latest_plug_in, night.zone, units)
        yield Fact("Latest plug-in", latest, "still reaches the limit, at a dearer price perhaps", "night.margin")
    dearest = "to the same level, with its own heat and warm-up"
    yield Fact("In the dearest hours", units.money(plan.cost_dearest), dearest, "night.margin")
    yield Fact("Standing above 80 %", units.text(plan.hours_above_80, "hours"), "before departure", "night.full_from")


def _morning(night: Tonight, units: Units) -> Iterator[Fact]:
    """What the morning finds."""
    pack = units.text(night.plan.warm.pack_c, "temperature", 0)
    yield Fact("Pack at departure", pack, "garage, charging heat and warm-up, in closed form", "pack.conductance_parked")
    read, placard = units.text(night.tyre_read_c, "temperature", 0), units.text(night.car.tyres.placard_kpa, "pressure")
    tyres = f"your reading at {read}, by the gas law; placard {placard}"
    yield Fact("Tyres tomorrow", units.text(night.tyre_cold_kpa, "pressure"), tyres, "tyres.reference_temperature")


def _of_the_day(night: Tonight, units: Units) -> Iterator[Fact]:
    """What the day asks, and how the owner's latest days went against the model."""
    air, known = night.conditions, night.known
    miss = f"planned; it may miss by {units.text(air.ambient_sigma_k, 'warmer', 1)} either way, which is in the band"
    yield Fact("Air on the day", units.text(air.ambient_c, "temperature", 0), miss, "weather.miss_tomorrow")
    if known.count >= LEAST_ERRORS:
        bias = f"{abs(100 * known.bias):.0f}{NBSP}% {'more' if known.bias >= 0 else 'less'}"
        errors = f"than the model, by the median of the last {known.count} noted; counted in everything here, and their scatter in the band"
        yield Fact("Your own days", bias, errors, "certainty.day")
    day = "road load on public drive schedules, cabin and pack heat"
    yield Fact("Energy for the day", units.text(night.day_kwh, "energy"), day, "road.drive_efficiency")


def _drawn(night: Tonight, units: Units) -> Iterator[Fact]:
    """When the wall is drawn from."""
    plan, warm = night.plan, night.plan.warm
    if warm.lead_s > 0:
        pack = f", pack {warm.pack_lead_s / 60:.0f} min" if warm.pack_lead_s > 0 else ""
        leads = f"cabin {warm.cabin_lead_s / 60:.0f} min{pack} before departure, so that heat does not leak"
        yield Fact("Warm-up", units.text(warm.wall_kwh + warm.pack_kwh, "energy"), leads, "pack.heater_efficiency")
    if plan.blocks:
        drawn_h = sum((block.end - block.start).total_seconds() for block in plan.blocks) / 3600
        late = "the cheapest of hours by price and of starts on quarter hours, for waiting cools the pack"
        price = "the cheapest hours that reach the limit; fewest starts, then as late as possible"
        yield Fact("Drawn", units.text(drawn_h, "hours"), late if plan.late else price, "night.equal")


def beside(night: Tonight, units: Units) -> tuple[tuple[str, str, str], ...]:
    """What stands beside the plan where it is another: charging at once, the cheapest hours alone; and what an early end leaves."""
    plan = night.plan
    if night.idle or not plan.blocks:
        return ()
    found = []
    for name, other in (("At once", plan.at_once), ("Cheapest hours only", plan.cheapest_only)):
        pack = f"the pack at {units.text(other.pack_c, 'temperature', 0)} when you leave"
        more = other.wear - plan.wear
        wear = f", {units.money(abs(more))} {'more' if more > 0 else 'less'} wear" if units.pays(abs(more)) else ""
        words = f"{hour(other.start, night.zone, units)} to {hour_up(other.end, night.zone, units)}, {pack}{wear}"
        if units.pays(other.cost - plan.cost) or abs(other.end - plan.blocks[-1].end) >= SAME_END:
            found.append((name, units.money(other.cost), words))
    found.append(_unplugged(night, units))
    return tuple(found)


def _unplugged(night: Tonight, units: Units) -> tuple[str, str, str]:
    """What an early end of the charging leaves: when the day's need is reached, else what the car has half way through the last block."""
    plan = night.plan
    enough = plan.reached(night.need_soc) if night.need_soc > night.night.soc else None
    if enough is not None:
        at = hour_up(enough, night.zone, units)
        return (
            "Unplugged early",
            f"before {at}",
            f"it has less than the {units.text(night.need_soc, 'percent')} that the day needs",
        )
    last = plan.blocks[-1]
    middle = last.start + (last.end - last.start) / 2
    return (
        "Unplugged early",
        units.text(plan.soc_at(middle), "percent"),
        f"is what the car has at {hour_up(middle, night.zone, units)}",
    )
