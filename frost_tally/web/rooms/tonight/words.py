"""Facts of a night's plan: each with its value, where it comes from, and the figure that it rests on most."""

from collections.abc import Mapping

from ....core.car import CHARGER_EFFICIENCY
from ....core.drive.certainty import LEAST_ERRORS
from ....services.tonight import Tonight
from ...units import Units
from ...words.hours import hour, hour_up
from ...words.reasons import LIMITS
from ...words.sentence import NBSP

OWN = ", measured by your own charges on this outlet,"
CHIP_FIGURES: Mapping[str, str] = {
    "At the wall": "supply.minimum_current",
    "From the wall": "session.taper_from",
    "Lost on the way": "supply.efficiency",
    "A kWh in the pack": "supply.efficiency",
    "Latest plug-in": "night.margin",
    "In the dearest hours": "night.margin",
    "Standing above 80 %": "night.full_from",
    "Pack at departure": "pack.conductance_parked",
    "Tyres tomorrow": "tyres.reference_temperature",
    "Air on the day": "weather.miss_tomorrow",
    "Energy for the day": "road.drive_efficiency",
    "Warm-up": "pack.heater_efficiency",
    "Drawn": "night.equal",
    "Your own days": "certainty.day",
}
"""The figure that a fact of the plan rests on most, by its name."""


def chips(night: Tonight, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Facts of the plan with where each comes from: name, value, origin."""
    plan, rate = night.plan, night.rate
    found = [
        ("At the wall", units.text(rate.wall_kw, "power"), f"{rate.amps:.0f} A, held by the {LIMITS[rate.limited_by]}"),
        (
            "From the wall",
            units.text(plan.session.wall_kwh + plan.warm.wall_kwh, "energy"),
            "charging and warm-up, simulated in five-minute steps",
        ),
        (
            "Lost on the way",
            units.text(plan.session.lost_kwh, "energy"),
            f"{100 * rate.efficiency:.0f} % conversion{OWN if rate.efficiency != CHARGER_EFFICIENCY else ''} "
            f"and {units.plain(rate.overhead_kw, 2)} kW overhead",
        ),
        (
            "A kWh in the pack",
            units.money(plan.price_in_pack),
            "the charging’s bill over what reached the pack; tally, day and warm-up count with it",
        ),
        *(
            [
                (
                    "Latest plug-in",
                    hour(plan.latest_plug_in, night.zone, units),
                    "still reaches the limit, at a dearer price perhaps",
                )
            ]
            if plan.reaches_limit and plan.blocks
            else []
        ),
        ("In the dearest hours", units.money(plan.cost_dearest), "simulated to the same level, with its own heat and warm-up"),
        ("Standing above 80 %", units.text(plan.hours_above_80, "hours"), "before departure"),
        (
            "Pack at departure",
            units.text(plan.warm.pack_c, "temperature", 0),
            "garage, charging heat and warm-up, in closed form",
        ),
        (
            "Tyres tomorrow",
            units.text(night.tyre_cold_kpa, "pressure"),
            f"your reading at {units.text(night.tyre_read_c, 'temperature', 0)}, by the gas law; "
            f"placard {units.text(night.car.tyres.placard_kpa, 'pressure')}",
        ),
        (
            "Air on the day",
            units.text(night.conditions.ambient_c, "temperature", 0),
            f"planned; it may miss by {units.text(night.conditions.ambient_sigma_k, 'warmer', 1)} either way, which is in the band",
        ),
        *_own_days(night),
        ("Energy for the day", units.text(night.day_kwh, "energy"), "road load on public drive schedules, cabin and pack heat"),
    ]
    if plan.warm.lead_s > 0:
        warm = plan.warm
        leads = f"cabin {warm.cabin_lead_s / 60:.0f} min" + (
            f", pack {warm.pack_lead_s / 60:.0f} min" if warm.pack_lead_s > 0 else ""
        )
        found.append(
            (
                "Warm-up",
                units.text(warm.wall_kwh + warm.pack_kwh, "energy"),
                f"{leads} before departure, so that heat does not leak",
            )
        )
    if plan.blocks:
        drawn_h = sum((block.end - block.start).total_seconds() for block in plan.blocks) / 3600
        found.append(
            (
                "Drawn",
                units.text(drawn_h, "hours"),
                "the cheapest of the hours by price and of a start on every quarter hour, for waiting cools the pack"
                if plan.late
                else "the cheapest hours that reach the limit; fewest starts, then as late as possible",
            )
        )
    return tuple(found)


def beside(night: Tonight, units: Units) -> tuple[tuple[str, str, str], ...]:
    """What stands beside the plan: charging at once, the cheapest hours alone, and what an early end leaves; name, value, words."""
    plan = night.plan
    if night.idle or not plan.blocks:
        return ()
    found = []
    for name, other in (("At once", plan.at_once), ("Cheapest hours only", plan.cheapest_only)):
        pack = f"the pack at {units.text(other.pack_c, 'temperature', 0)} when you leave"
        more = other.wear - plan.wear
        wear = f", {units.money(abs(more))} {'more' if more > 0 else 'less'} wear" if units.pays(abs(more)) else ""
        words = f"{hour(other.start, night.zone, units)} to {hour_up(other.end, night.zone, units)}, {pack}{wear}"
        same = abs(other.cost - plan.cost) < 0.005 and abs(other.end - plan.blocks[-1].end).total_seconds() < 120
        found.append((name, units.money(other.cost), "the same as this plan" if same else words))
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


def _own_days(night: Tonight) -> list[tuple[str, str, str]]:
    """How the owner's latest days went against the model."""
    known = night.known
    if known.count < LEAST_ERRORS:
        return []
    text = f"{abs(100 * known.bias):.0f}{NBSP}% {'more' if known.bias >= 0 else 'less'}"
    return [
        (
            "Your own days",
            text,
            f"than the model, by the median of the last {known.count} noted; counted in everything here, and their scatter in the band",
        )
    ]
