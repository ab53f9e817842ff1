"""Words of the year on another car: money, days that its nights do not carry, reach in the cold; and the same in fuel."""

from ....core.advice.another_car import YearOn
from ....services.another_car import OWN, AnotherCar
from ...units import Units
from ...words.fields import CODES
from ...words.lists import CLASSES
from ...words.sentence import Part, Verdict

CLEARLY = 20.0
"""Money a year from which one car is said to be cheaper to drive than another: our judgement."""


def named(room: AnotherCar, year: YearOn) -> str:
    """A car as it is called here."""
    return room.owned.name if year.key == OWN else CLASSES[year.key]


def another_verdict(room: AnotherCar, units: Units) -> Verdict:
    """What one's own costs, what would be cheaper without missing more, and fuel."""
    own, best = room.own, room.best
    missed = _days(own.short_days)
    lead = [Part(f"{room.owned.name} takes "), Part(units.money(own.cost, 0), "strong"), Part(f" a year and misses {missed}")]
    if best is not own and own.cost - best.cost >= CLEARLY * units.exchange_rate:
        lead += [
            Part(f"; a {named(room, best).lower()} would take "), Part(units.money(best.cost, 0), "strong"),
            Part(f" and miss {_days(best.short_days)}."),
        ]  # fmt: skip
    else:
        lead.append(Part("; no other class is cheaper to drive without missing more."))
    saved = room.fuel_cost - own.cost
    then: tuple[Part, ...] = (
        Part(f"The same {units.text(room.km, 'distance')} in fuel: "), Part(units.money(room.fuel_cost, 0), "strong"),
        Part(f", {units.money(abs(saved), 0)} {'more' if saved >= 0 else 'less'} a year. What a car costs to buy is not counted."),
    )  # fmt: skip
    if room.inputs.garage != room.owned.place.garage:
        less = room.here.cost - own.cost
        more = f"{units.money(abs(less), 0)} {'less' if less >= 0 else 'more'}"
        there = f"{CODES['garage'][room.inputs.garage]} {room.owned.name} takes {more}"
        then = (Part(f"Standing {there} a year than as it stands now. "), *then)
    worst = max(room.years, key=lambda each: each.short_days)
    notes = () if worst.short_days <= own.short_days else (
        f"A {named(room, worst).lower()} would miss {_days(worst.short_days)}: what its nights do not carry is charged on the way.",
    )  # fmt: skip
    return Verdict(tuple(lead), then, notes)


def _days(count: int) -> str:
    return "no day" if not count else f"{count} day{'s' if count != 1 else ''}"


def another_rows(room: AnotherCar, units: Units) -> tuple[tuple[str, ...], ...]:
    """The table: a line for each car."""
    return tuple(
        (
            named(room, each),
            units.text(each.usable_kwh, "energy", 0),
            units.text(each.wall_kwh, "energy", 0),
            units.money(each.cost, 0),
            units.money(each.way_cost, 0),
            units.money(each.wear, 0),
            str(each.short_days),
            str(each.stops),
            f"{units.text(each.cold_km, 'distance', 0, unit=False)} to {units.text(each.mild_km, 'distance', 0)}",
        )
        for each in room.years
    )
